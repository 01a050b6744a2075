"""Names and PINs at the block; log-in, people and tablets in the office."""

from datetime import timedelta
from typing import Any
from urllib.parse import urlencode

from django.conf import settings
from django.contrib.auth import login
from django.contrib.auth.views import PasswordChangeView
from django.http import HttpRequest, HttpResponse, HttpResponseRedirect
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from rooms.common.db.seen import state_of
from rooms.common.db.writing import write
from rooms.common.errors import Refused
from rooms.common.web.doors import open_to_all
from rooms.common.web.paging import page_of
from rooms.common.web.refusals import status_of, told_by, told_in
from rooms.common.web.views import back
from rooms.staff import sessions
from rooms.staff.actions.events import Kind, note
from rooms.staff.actions.people import has_manager, make_first_manager, save_person
from rooms.staff.actions.tablets import enrol, withdraw
from rooms.staff.actions.turns import step_away, step_up
from rooms.staff.block import by_id, know, leave_office, remember, stand, tablet_of
from rooms.staff.block import who as asking
from rooms.staff.forms import FirstForm, OfficeForm, PersonForm
from rooms.staff.models import Person, SecurityEvent, Tablet, names
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
    people = list(Person.objects.filter(is_active=True).exclude(pin=""))
    shown = names(people)
    return render(
        request,
        "staff/who.html",
        {
            "people": [(one, shown[one.pk]) for one in people],
            "tablet": tablet,
            "back": request.GET.get("back", "/"),
        },
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
    response = HttpResponseRedirect(back(request))
    # Read by the block's scripts: a page that the tablet kept from before says who opened it, not who weighs.
    response.set_cookie("turn", str(turn.pk), samesite="Lax", secure=settings.SESSION_COOKIE_SECURE)
    return response


@open_to_all
@require_POST
def away(request: HttpRequest) -> HttpResponse:
    """Leave the block, or log out of the office."""
    at = asking(request)
    step_away(request.session.get("turn") or "")
    if at is not None:
        note(Kind.OUT, request, person_id=at.id)
    leave_office(request)
    name = "staff:who" if tablet_of(request) else "staff:office"
    goes_to = f"?{urlencode({'back': back(request)})}" if request.POST.get("back") else ""
    return HttpResponseRedirect(f"{reverse(name)}{goes_to}")


@open_to_all
@require_http_methods(["GET", "POST"])
def office(request: HttpRequest) -> HttpResponse:
    """Log-in with a password."""
    if request.method == "GET" and not has_manager():
        return redirect("staff:first")
    form = OfficeForm(request, request.POST or None)
    if request.method == "POST" and form.is_valid():
        step_away(request.session.pop("turn", None) or "")
        return _signed_in(request, form.get_user(), back(request))
    status = 200
    if form.is_bound:
        is_locked = getattr(request, "axes_locked_out", False)
        status = 429 if is_locked else 422
        _note_wrong(request, form.data.get("username", ""), is_locked=is_locked)
    goes_to = request.POST.get("back") or request.GET.get("back", "/")
    context = {"form": form, "back": goes_to, "tablet": tablet_of(request)}
    return render(request, "staff/office.html", context, status=status)


def _signed_in(request: HttpRequest, person: Person, goes_to: str) -> HttpResponse:
    login(request, person, BACKEND)
    sessions.touch(request)
    note(Kind.IN, request, person_id=person.pk, words="office")
    response = HttpResponseRedirect(goes_to)
    know(response, person.username, secure=settings.SESSION_COOKIE_SECURE)
    return response


def _note_wrong(request: HttpRequest, username: str, *, is_locked: bool) -> None:
    """A name that nobody has is written as it was typed, its first letters; what is locked, once a minute."""
    person = Person.objects.filter(username=username).first()
    kind = Kind.LOCKED if is_locked else Kind.WRONG
    words = "office" if person else f"office: {username[:30]!r}"
    since = timezone.now() - timedelta(minutes=1)
    if not is_locked or not SecurityEvent.objects.filter(kind=kind, at__gt=since).exists():
        note(kind, request, person_id=person.pk if person else None, words=words)


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
        return _signed_in(request, person, reverse("today:today"))
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


@may(Right.PEOPLE, read=Right.PEOPLE)
@require_GET
def events(request: HttpRequest) -> HttpResponse:
    """Sign-ins, refusals, new PINs, tablets: the newest first."""
    rows = SecurityEvent.objects.select_related("person", "by", "tablet")
    kind = request.GET.get("kind", "")
    if kind in Kind.values:
        rows = rows.filter(kind=kind)
    context = {
        "page": page_of(request, rows),
        "kinds": [("", "everything"), *Kind.choices],
        "kind": kind,
    }
    return render(request, "staff/events.html", context)


@may(Right.LOOK)
@require_POST
def touched(request: HttpRequest) -> HttpResponse:
    """The glass was touched: the session stays open."""
    sessions.touch(request)
    return HttpResponse(status=204)


class ChangePassword(PasswordChangeView):
    template_name = "staff/password.html"

    def get_success_url(self) -> Any:
        return "/"

    def form_valid(self, form: Any) -> Any:
        with write():
            note(Kind.PASSWORD, self.request, person_id=self.request.user.pk)
            return super().form_valid(form)

    def form_invalid(self, form: Any) -> Any:
        return self.render_to_response(self.get_context_data(form=form), status=422)


change_password = may(Right.OWN, read=Right.OWN)(ChangePassword.as_view())
