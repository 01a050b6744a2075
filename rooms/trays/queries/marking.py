"""Trays that will pass their last day, and what the shop's rule proposes."""

from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal

from cutting.errors import BadValue
from cutting.labels.mark_down import Marked, Shrink, is_due, marked
from cutting.labels.tray_life import Life
from cutting.quantities import ZERO, working
from rooms.pricebook.models import Product
from rooms.trays.models import LabelRules, Tray
from rooms.trays.queries.held import held_trays
from rooms.trays.queries.labelling import label_rules
from rooms.trays.queries.shrink import shrink_lately

SHOWN = 200


@dataclass(frozen=True)
class Proposal:
    """A tray with its new price by the shop's rule; None where it has no sense."""

    tray: Tray
    now: Marked | None

    @property
    def key(self) -> str:
        """Its tray, as the page sends it back."""
        return str(self.tray.pk)

    @property
    def loses(self) -> Decimal:
        if self.now is None:
            return ZERO
        with working():
            return Decimal(self.tray.price_now - self.now.total)


@dataclass(frozen=True)
class Marking:
    """`due`: to be marked down today; `done`: marked down already; `past`: past their day."""

    rules: LabelRules
    due: list[Proposal]
    done: list[Tray]
    past: list[Tray]
    shrink: list[tuple[Product, Shrink]]

    @property
    def loses(self) -> Decimal:
        with working():
            return sum((one.loses for one in self.due), ZERO)


def marking(today: date) -> Marking:
    """Five queries while nothing is held. Held trays are not sold for less."""
    rules = label_rules()
    last = today + timedelta(days=rules.markdown_days)
    rows = Tray.objects.for_sale().filter(sell_by__lte=last).select_related("product", "mark")
    trays = list(rows.order_by("sell_by", "number")[:SHOWN])
    held = held_trays(trays)
    free = [one for one in trays if one.pk not in held]
    due = [one for one in free if is_due(one.sell_by, today, rules.markdown_days)]
    lost = shrink_lately(today)
    names = Product.objects.in_bulk(lost)
    return Marking(
        rules=rules,
        due=[Proposal(one, _by_rule(one, rules)) for one in due if one.life != Life.MARKED_DOWN],
        done=[one for one in due if one.life == Life.MARKED_DOWN],
        past=[one for one in trays if one.sell_by < today],
        shrink=sorted(
            ((names[pk], one) for pk, one in lost.items() if one.share),
            key=lambda row: -row[1].share,
        ),
    )


def _by_rule(tray: Tray, rules: LabelRules) -> Marked | None:
    try:
        return marked(tray.price, rules.markdown_off, tray.weight)
    except BadValue:
        return None
