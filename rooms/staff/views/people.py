"""Names and PINs at the block; log-in, people and tablets in the office."""

from typing import Any
from urllib.parse import urlencode

from django.conf import settings
from django.contrib.auth import login, logout
from django.contrib.auth.views import PasswordChangeView
from django.http import HttpRequest, HttpResponse, HttpResponseRedirect
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from rooms.common.doors import open_to_all
from rooms.common.errors import Refused
from rooms.common.refusals import status_of, told_by, told_in
from rooms.common.seen import state_of
from rooms.common.views import back
from rooms.common.writing import write
from rooms.staff.actions.people import has_manager, make_first_manager, save_person
from rooms.staff.actions.tablets import enrol, withdraw
from rooms.staff.actions.turns import step_away, step_up
from rooms.staff.block import by_id, remember, stand, tablet_of
from rooms.staff.forms import FirstForm, OfficeForm, PersonForm
from rooms.staff.models import Person, Tablet
from rooms.staff.rights import Right, may

BACKEND = "django.contrib.auth.backends.ModelBackend"


@open_to_all
@require_GET
def who(request: HttpRequest) -> HttpResponse:
    """The names, on an enrolled tablet."""
    tablet = tablet_of(request)
    if tablet is None:
        goes_to = urlencode({"back": request.GET.get("back", "/")})
        return HttpResponseRedirect(f"{reverse('staff:office')}?{goes_to}")
    people = Person.objects.filter(is_active=True).exclude(pin="")
    return render(
        request,
        "staff/who.html",
        {"people": people, "tablet": tablet, "back": request.GET.get("back", "/")},
    )


def _wrong_pin(request: HttpRequest, refused: Refused, pk: Any) -> HttpResponse:
    person = get_object_or_404(Person, pk=pk)
    context = {"person": person, "back": back(request), "refused": refused}
    return render(request, "staff/pin.html", context, status=refused.status)


@open_to_all
@require_http_methods(["GET", "POST"])
@told_by(_wrong_pin)
def pin(request: HttpRequest, pk: Any) -> HttpResponse:
    """The PIN of one name, with large keys."""
    person = get_object_or_404(Person, pk=pk, is_active=True)
    if request.method == "GET":
        context = {"person": person, "back": request.GET.get("back", "/")}
        return render(request, "staff/pin.html", context)
    turn = step_up(request, tablet_of(request), pk, request.POST.get("pin", ""))
    stand(request, turn)
    return HttpResponseRedirect(back(request))


@open_to_all
@require_POST
def away(request: HttpRequest) -> HttpResponse:
    """Leave the block, or log out of the office."""
    step_away(request.session.get("turn") or "00000000-0000-0000-0000-000000000000")
    logout(request)
    return redirect("staff:who" if tablet_of(request) else "staff:office")


@open_to_all
@require_http_methods(["GET", "POST"])
def office(request: HttpRequest) -> HttpResponse:
    """Log-in with a password."""
    if request.method == "GET" and not has_manager():
        return redirect("staff:first")
    form = OfficeForm(request, request.POST or None)
    if request.method == "POST" and form.is_valid():
        step_away(request.session.pop("turn", None) or "00000000-0000-0000-0000-000000000000")
        login(request, form.get_user(), BACKEND)
        return HttpResponseRedirect(back(request))
    status = 200
    if form.is_bound:
        status = 429 if getattr(request, "axes_locked_out", False) else 422
    goes_to = request.POST.get("back") or request.GET.get("back", "/")
    context = {"form": form, "back": goes_to, "tablet": tablet_of(request)}
    return render(request, "staff/office.html", context, status=status)


@open_to_all
@require_http_methods(["GET", "POST"])
def first(request: HttpRequest) -> HttpResponse:
    """The first manager; afterwards this page is gone."""
    if has_manager():
        return redirect("staff:office")
    form = FirstForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        data = form.cleaned_data
        person = make_first_manager(data["name"], data["username"], data["password"])
        login(request, person, BACKEND)
        return redirect("today:today")
    return render(request, "staff/first.html", {"form": form}, status=422 if form.is_bound else 200)


def _people_page(request: HttpRequest, refused: Refused | None = None) -> HttpResponse:
    context = {
        "people": Person.objects.all(),
        "tablets": Tablet.objects.all(),
        "this": tablet_of(request),
        "refused": refused,
        "typed": request.POST.get("name", ""),
    }
    status = refused.status if refused else 200
    return render(request, "staff/people.html", context, status=status)


@may(Right.PEOPLE, read=Right.PEOPLE)
@require_http_methods(["GET", "POST"])
@told_by(_people_page)
def people(request: HttpRequest) -> HttpResponse:
    """Everybody, and the tablets; posting enrols this browser."""
    if request.method == "GET":
        return _people_page(request)
    tablet, secret = enrol(request.POST.get("name", ""), by_id(request))
    response = redirect("staff:people")
    remember(response, tablet, secret, secure=settings.SESSION_COOKIE_SECURE)
    return response


@may(Right.PEOPLE)
@require_POST
def withdraw_tablet(request: HttpRequest, pk: Any) -> HttpResponse:
    withdraw(pk, request.user)
    return redirect("staff:people")


@may(Right.PEOPLE, read=Right.PEOPLE)
@require_http_methods(["GET", "POST"])
def person(request: HttpRequest, pk: Any = None) -> HttpResponse:
    """One person: entering, changing, a new PIN or password."""
    one = get_object_or_404(Person, pk=pk) if pk else Person()
    initial = {"seen": state_of(one)} if pk else {}
    form = PersonForm(request.POST or None, instance=one, initial=initial)
    if request.method == "POST" and form.is_valid():
        data = form.cleaned_data
        with told_in(form):
            save_person(
                form.save(commit=False),
                request.user,
                pin=data["new_pin"],
                password=data["new_password"],
                seen=data["seen"],
            )
            return redirect("staff:people")
    context = {"form": form, "person": one if pk else None}
    return render(request, "staff/person.html", context, status=status_of(form))


class ChangePassword(PasswordChangeView):
    template_name = "staff/password.html"

    def get_success_url(self) -> Any:
        return "/"

    def form_valid(self, form: Any) -> Any:
        with write():
            return super().form_valid(form)

    def form_invalid(self, form: Any) -> Any:
        return self.render_to_response(self.get_context_data(form=form), status=422)


change_password = may(Right.OWN, read=Right.OWN)(ChangePassword.as_view())
