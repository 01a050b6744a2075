"""A review on the page, and new costs from a hand, a delivery or a file."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from decimal import Decimal

from django.core.paginator import Page

from cutting.errors import BadValue
from cutting.quantities import Unit, UnitPrice, parse_decimal, round_half_up
from rooms.common.errors import BadInput
from rooms.common.tables.files import as_record, headed, rows_of
from rooms.common.web.forms import tidy
from rooms.common.web.paging import paged
from rooms.common.words import fold
from rooms.cooler.queries.reading_in import KnownPieces
from rooms.pricebook.models import Price
from rooms.pricebook.queries.book import coming
from rooms.pricing.models import Review, ReviewLine
from rooms.pricing.queries.depending import PieceCost
from rooms.shop.queries.current import house
from rooms.shop.queries.money import bare_amount
from wording.pencil import Pencil, Step, money

A_PAGE = 50
MOST_COST = Decimal(1000)


@dataclass(frozen=True)
class LineView:
    """One line as it was worked out, and a price that is set already for a day to come."""

    line: ReviewLine
    coming: Price | None
    is_mixed: bool = False
    """Other products on the piece were priced when it cost less than now."""

    @property
    def change(self) -> Decimal:
        return self.line.proposed - self.line.price.amount

    @property
    def why_down(self) -> str:
        """Why a price falls where others on the same piece rise; empty where it does not, or where nobody
        knows."""
        then, now = self.line.paid_then, self.line.cost.amount
        if not self.is_mixed or self.change >= 0 or then is None or then <= now:
            return ""
        piece = self.line.cost.piece.shown_name
        return f"{piece} cost {money(then)} when this was priced; it is {money(now)} now."

    @property
    def differ(self) -> bool:
        """The two methods part by a cent or more."""
        full = self.line.in_full
        return full is not None and round_half_up(full) != round_half_up(self.line.by_factor)

    @property
    def pencil(self) -> Pencil | None:
        steps = tuple(Step(words, numbers) for words, numbers in self.line.pencil)
        return Pencil("What the new invoice does", steps) if steps else None


def lines_of(review: Review, number: str | None) -> tuple[Page, list[LineView]]:
    """One page of a review: three queries."""
    rows = review.lines.select_related("price", "cost__piece", "product")
    page = paged(rows, number, A_PAGE)
    later = coming([line.product_id for line in page])
    rising = {
        line.cost_id
        for line in page
        if line.paid_then is not None and line.paid_then < line.cost.amount
    }
    return page, [
        LineView(line, later.get(line.product_id), line.cost_id in rising) for line in page
    ]


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
    amount = parse_decimal(tidy(bare_amount(text, name)), name)
    if not 0 < amount <= MOST_COST:
        raise BadValue(name, f"{text} is no cost", f"more than 0, at most {MOST_COST} is right")
    return amount


HEADS = {
    "piece": "piece",
    "item": "piece",
    "item number": "piece",
    "name": "piece",
    "price": "price",
    "cost": "price",
    "per": "per",
    "unit": "per",
}


def file_costs(raw: bytes) -> tuple[dict[int, UnitPrice], list[str]]:
    """Costs from a CSV or XLSX with columns piece and price, and per; and what is wrong by row."""
    table = rows_of(raw)
    heads = headed(table[0][1], HEADS) if table else []
    if not {"piece", "price"} <= set(heads):
        raise BadInput(
            "File, row 1: a column piece and a column price are right; per if it is"
            f" not {house().unit}."
        )
    known, found, faults = KnownPieces.now(), {}, []
    for where, cells in table[1:]:
        row = as_record(heads, cells)
        piece = known.by_name.get(fold(row.get("piece", "")))
        if piece is None:
            faults.append(f"{where}, piece: “{row.get('piece', '')}” is not in the catalog.")
            continue
        try:
            per = row.get("per") or house().unit
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
