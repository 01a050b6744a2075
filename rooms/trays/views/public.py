"""The page behind the QR: no log-in, and nothing of the inside of the shop."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils import timezone
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_safe

from cutting.labels.tray_life import Life
from rooms.common.web.doors import open_to_all
from rooms.cooler.queries.codes import country_named
from rooms.staff.block import who
from rooms.trays.models import Tray
from rooms.trays.queries.held import hold_on
from rooms.trays.queries.labelling import label_rules, readable

WRONG = (Life.THROWN, Life.UNDONE)


@open_to_all
@never_cache
@require_safe
def label(request: HttpRequest, gtin: str, serial: str, lot: str = "") -> HttpResponse:
    """What a shopper reads of a tray. 404 for a code that this shop never printed, or has no page for."""
    tray = None
    if label_rules().link and len(serial) <= Tray.SERIAL:
        rows = Tray.objects.standing().select_related("product__cut__muscle", "mark")
        tray = rows.filter(serial=serial).first()
    if tray is None or tray.document["product"].get("gtin") != gtin:
        return _answer(request, "trays/public_unknown.html", {}, 404)
    held = hold_on(tray)
    context = {
        "tray": tray,
        "label": readable(tray.label_now),
        "country": country_named(tray.document.get("country", "")),
        "facts": tray.document.get("facts", []),
        "cut": tray.product.cut,
        "must_not": held is not None or tray.state in WRONG,
        "is_held": held is not None,
        "is_past": tray.sell_by < timezone.localdate(),
        "is_ours": who(request) is not None,
    }
    return _answer(request, "trays/public.html", context, 200)


def _answer(
    request: HttpRequest, template: str, context: dict[str, Any], status: int
) -> HttpResponse:
    answer = render(request, template, context, status=status)
    answer["X-Robots-Tag"] = "noindex"
    return answer
