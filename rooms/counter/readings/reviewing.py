"""A review on the page, and new costs from a hand, a delivery or a file."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from decimal import Decimal

from django.core.paginator import Page, Paginator

from cutting.building import comfort_words
from cutting.errors import BadValue
from cutting.pencil import Pencil
from cutting.pencil_plan import moved_pencil
from cutting.pricing import tray_sticker
from cutting.quantities import ZERO, Unit, UnitPrice, parse_decimal, round_half_up, working
from cutting.repricing import Moved, reprice
from rooms.common.errors import BadInput
from rooms.common.forms import tidy
from rooms.common.tables import as_record, headed, rows_of
from rooms.common.words import fold
from rooms.cooler.models import Bag
from rooms.cooler.reading_in import Known
from rooms.counter.models import Review, ReviewLine
from rooms.counter.readings.depending import PieceCost, standing_of
from rooms.pricebook.models import Price
from rooms.pricebook.readings.book import coming
from rooms.pricebook.rules import tray_of

A_PAGE = 50
MOST_COST = Decimal(1000)


@dataclass(frozen=True)
class LineView:
    """One line as shown: cost and margin before, margin if nothing changes, the proposal."""

    line: ReviewLine
    cost: Decimal
    moved: Moved
    sticker: Decimal | None
    comfort: str
    pencil: Pencil
    coming: Price | None
    """A price that is set already for a day to come."""

    @property
    def change(self) -> Decimal:
        return self.line.proposed - self.line.price.amount

    @property
    def differ(self) -> bool:
        """The two methods part by a cent or more."""
        full = self.line.in_full
        return full is not None and round_half_up(full) != round_half_up(self.line.by_factor)


def page_of(review: Review, number: str | None) -> tuple[Page, list[LineView]]:
    """One page of a review: three queries."""
    rows = review.lines.select_related(
        "price", "cost__piece", "product__cut", "product__family__ending", "product__ending",
        "product__tray",
    )  # fmt: skip
    page = Paginator(rows, A_PAGE).get_page(number)
    later = coming([line.product_id for line in page])
    return page, [_view(line, review.method, later.get(line.product_id)) for line in page]


def _view(line: ReviewLine, method: str, later: Price | None) -> LineView:
    line.price.product = line.product
    cost, product = line.new_cost(method), line.product
    tray = tray_of(product)
    limit = product.family.comfort if product.family_id else None
    standing, now = standing_of(line.price), line.cost.price
    moved = reprice(standing, cost)
    return LineView(
        line, cost, moved,
        tray_sticker(line.proposed, tray) if tray else None,
        comfort_words(line.proposed, tray, limit, product.portions) if tray and limit else "",
        moved_pencil(standing, cost, (line.price.paid or now, now), moved), later,
    )  # fmt: skip


# --- new costs ------------------------------------------------------------------------------


def typed_costs(
    pieces: Iterable[PieceCost], typed: Mapping[str, str]
) -> tuple[dict[int, UnitPrice], dict[int, str]]:
    """Costs from the fields cost-<piece>, and what is wrong by piece."""
    found, faults = {}, {}
    for one in pieces:
        text = typed.get(f"cost-{one.piece.pk}", "").strip()
        if not text:
            continue
        try:
            found[one.piece.pk] = UnitPrice(read_cost(text, one.piece.shown_name), one.paid.per)
        except BadValue as bad:
            faults[one.piece.pk] = str(bad)
    return found, faults


def read_cost(text: str, name: str) -> Decimal:
    amount = parse_decimal(tidy(text.lstrip("$€£")), name)
    if not 0 < amount <= MOST_COST:
        raise BadValue(name, f"{text} is no cost", f"more than 0, at most {MOST_COST} is right")
    return amount


def delivery_costs(delivery_id: str) -> dict[int, UnitPrice]:
    """What each piece cost in a delivery: its price, or the mean by weight of several."""
    bags = Bag.objects.filter(delivery=delivery_id, part_of=None).exclude(price_amount=None)
    paid: dict[int, list[tuple[Decimal, UnitPrice]]] = {}
    for bag in bags.exclude(piece=None):
        price = UnitPrice(bag.price_amount, Unit(bag.price_per))
        paid.setdefault(bag.piece_id, []).append((bag.weight.to(price.per), price))
    found = {}
    for piece, rows in paid.items():
        per = rows[0][1].per
        if len({price for _, price in rows}) == 1:
            found[piece] = rows[0][1]
            continue
        with working():
            weight = sum((w * p.per.grams for w, p in rows), ZERO)
            money = sum((w * p.per.grams * p.to(per) for w, p in rows), ZERO)
            found[piece] = UnitPrice(round_half_up(money / weight, 4), per)
    return found


HEADS = {"piece": "piece", "item": "piece", "item number": "piece", "name": "piece",
         "price": "price", "cost": "price", "per": "per", "unit": "per"}  # fmt: skip


def file_costs(raw: bytes) -> tuple[dict[int, UnitPrice], list[str]]:
    """Costs from a CSV or XLSX with columns piece and price, and per; and what is wrong by row."""
    table = rows_of(raw)
    heads = headed(table[0][1], HEADS) if table else []
    if not {"piece", "price"} <= set(heads):
        raise BadInput("File, row 1: a column piece and a column price are right; per if not lb.")
    known, found, faults = Known.now(), {}, []
    for where, cells in table[1:]:
        row = as_record(heads, cells)
        piece = known.by_name.get(fold(row.get("piece", "")))
        if piece is None:
            faults.append(f"{where}, piece: “{row.get('piece', '')}” is not in the catalog.")
            continue
        try:
            per = row.get("per") or "lb"
            if per not in ("lb", "kg", "oz", "g"):
                raise BadValue("per", f"“{per}”", "lb or kg is right")
            if piece.pk in found:
                raise BadValue("piece", f"{piece.shown_name} stands there twice", "once is right")
            found[piece.pk] = UnitPrice(read_cost(row.get("price", ""), "price"), Unit(per))
        except BadValue as bad:
            faults.append(f"{where}, {bad}.")
    if not found and not faults:
        faults.append("The file has no row below its head.")
    return found, faults
