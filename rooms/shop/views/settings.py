"""The shop's settings: all on one page, each page of them to change, who changed what."""

from dataclasses import dataclass
from typing import Any

from django.conf import settings
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from rooms.common.db.seen import state_of
from rooms.common.errors import Overtaken, Refused
from rooms.shop.actions import first_day as leading
from rooms.shop.actions.change import Asked, Changer, change
from rooms.shop.forms import SECTIONS, Section, names_of
from rooms.shop.models import Shop
from rooms.shop.queries import progress as first_day
from rooms.shop.queries.changes import changes
from rooms.shop.queries.current import forget, house
from rooms.shop.queries.first_day import next_section
from rooms.shop.queries.house import House
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may


@may(Right.LOOK)
@require_GET
def overview(request: HttpRequest) -> HttpResponse:
    """Every setting and what holds."""
    now = house()
    context = {"groups": [(key, _lines(key, now)) for key in SECTIONS], "sections": SECTIONS}
    return render(request, "shop/settings.html", context)


def _lines(key: str, now: Any) -> dict[str, Any]:
    form = SECTIONS[key](initial=SECTIONS[key].filled(now))
    names = names_of(SECTIONS[key])
    return {
        "title": form.title,
        "lines": [(_label(form, name), form.says(name, getattr(now, name))) for name in names],
    }


def _label(form: Section, name: str) -> str:
    return str(form.fields[name].label) if name in form.fields else form.title


@may(Right.SHOP, read=Right.SHOP)
@require_http_methods(["GET", "POST"])
def section(request: HttpRequest, key: str) -> HttpResponse:
    """One page of the settings; on a first visit they follow each other."""
    if key not in SECTIONS:
        raise Http404
    kind, now = SECTIONS[key], house()
    row = Shop.objects.first()
    seen = state_of(row) if row is not None else ""
    form = kind(request.POST or None, initial=kind.filled(now) | {"seen": seen})
    if request.method == "GET" or not form.is_valid():
        return _page(request, key, form, status=422 if form.is_bound else 200)
    sent = request.POST
    changer = Changer(by_id(request), form.cleaned_data["seen"], sent.get("agreed", ""))
    try:
        change(form.values, changer)
    except Refused as refused:
        forget()
        held = _held(form, refused) if isinstance(refused, Overtaken) else None
        return _page(request, key, form, refused, status=refused.status, held=held)
    leading.note(f"{first_day.SETTINGS}-{key}", leading.Kind.DONE, by_id(request))
    if sent.get("walk"):
        after = next_section(key)
        if after is None:
            return redirect("today:today")
        return _to_section(after)
    return redirect("shop:settings")


@may(Right.SHOP, read=Right.SHOP)
@require_GET
def walk(request: HttpRequest) -> HttpResponse:
    """The first page of the settings that nobody has looked through yet, on whatever tablet."""
    return _to_section(next_section() or next(iter(SECTIONS)))


def _to_section(key: str) -> HttpResponse:
    return redirect(f"{reverse('shop:section', args=[key])}?walk=1")


@dataclass(frozen=True)
class Held:
    """What holds since somebody else saved: who it was, and the settings of this page that differ."""

    by: str
    lines: list[tuple[str, str]]


def _held(form: Section, overtaken: Overtaken) -> Held:
    """The form then shows what holds, with the changes made here kept."""
    now = House.of(overtaken.row)
    before = House.of(form.seen_before(overtaken.row))
    lines = [
        (_label(form, name), form.says(name, getattr(now, name)))
        for name in names_of(type(form))
        if getattr(now, name) != getattr(before, name)
    ]
    form.rebase(overtaken)
    last = Shop.history.select_related("history_user").first()
    return Held(str((last and last.history_user) or "Somebody else"), lines)


def _page(
    request: HttpRequest,
    key: str,
    form: Section,
    refused: Refused | None = None,
    *,
    status: int,
    held: Held | None = None,
) -> HttpResponse:
    keys = list(SECTIONS)
    context = {
        "form": form,
        "key": key,
        "number": keys.index(key) + 1,
        "of": len(keys),
        "before": keys[keys.index(key) - 1] if key != keys[0] else "",
        "walk": request.GET.get("walk") or request.POST.get("walk", ""),
        "refused": refused,
        "asked": refused if isinstance(refused, Asked) else None,
        "held": held,
        "scales": _addresses() if key == "scales" else [],
        "has_probe": bool(settings.PROBE_KEY),
    }
    return render(request, "shop/section.html", context, status=status)


def _addresses() -> list[tuple[str, str]]:
    """Where the bridges listen, as the environment says."""
    first = house().scales[0].label
    found = [(first, settings.SCALE_URL)] if settings.SCALE_URL else []
    return found + [(str(one["name"]), str(one.get("url", ""))) for one in settings.MORE_SCALES]


@may(Right.LOOK)
@require_GET
def history(request: HttpRequest) -> HttpResponse:
    """Who changed what."""
    forms = {
        name: kind(initial=kind.filled(house()))
        for kind in SECTIONS.values()
        for name in names_of(kind)
    }
    lines = [
        (
            one,
            [
                (
                    _label(forms[name], name),
                    forms[name].says(name, was),
                    forms[name].says(name, is_now),
                )
                for name, was, is_now in one.values
                if name in forms
            ],
        )
        for one in changes()
    ]
    return render(
        request,
        "shop/history.html",
        {"lines": [pair for pair in lines if pair[1] or not pair[0].values]},
    )


@may(Right.SHOP)
@require_POST
def step(request: HttpRequest, key: str) -> HttpResponse:
    """A step of the first day is put aside, or taken up again."""
    is_aside = request.POST.get("kind") == leading.Kind.ASIDE
    leading.note(key, leading.Kind.ASIDE if is_aside else leading.Kind.AGAIN, by_id(request))
    return redirect("today:today")


@may(Right.SHOP)
@require_POST
def over(request: HttpRequest) -> HttpResponse:
    """The first day is over."""
    leading.end(by_id(request))
    return redirect("today:today")
