from django.http import HttpResponseRedirect
from django.shortcuts import render
from django.views.decorators.http import require_http_methods

from rooms.common.errors import Refused
from rooms.common.views import back, refusal
from rooms.staff.block import step_up
from rooms.staff.models import Person


@require_http_methods(["GET", "POST"])
def who(request):
    """The name picker."""
    if request.method == "POST":
        try:
            step_up(request, request.POST.get("person", ""))
        except Refused as refused:
            return refusal(request, refused)
        return HttpResponseRedirect(back(request))
    people = Person.objects.filter(is_active=True)
    return render(
        request, "staff/who.html", {"people": people, "back": request.GET.get("back", "/")}
    )
