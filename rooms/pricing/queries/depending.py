"""Which products rest on which piece, and what they were priced at."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from decimal import Decimal
from typing import Any
from uuid import UUID

from django.db.models import F

from cutting.costing.schools import CostingSchool
from cutting.prices.margins import Loads, Policy, margin_at
from cutting.prices.repricing import PricedProduct, in_full
from cutting.quantities import ZERO, Unit, UnitPrice, round_half_up
from cutting.sheet.cutting_test import CuttingTest as CoreTest
from cutting.sheet.cutting_test import same_name
from formats.reading import read_document
from rooms.bench.models import CuttingTest
from rooms.catalog.models import Piece
from rooms.pricebook.models import Basis, Price, PriceQuerySet, Product
from rooms.pricebook.queries.product_terms import endings_of, floor_of, loads_of


@dataclass(frozen=True)
class Depending:
    """A price with the piece it rests on and what that piece cost then."""

    price: Price
    piece_id: int
    paid: UnitPrice

    @property
    def product(self) -> Product:
        return self.price.product


def depending(
    more: Callable[[PriceQuerySet], PriceQuerySet] | None = None,
) -> list[Depending]:
    """Every current price with a cost and a piece behind it: two queries at any size.

    `more`: what else is to be asked of each price.
    """
    current = Price.objects.current().select_related(
        "product__cut", "product__family__ending", "product__ending", "product__tray"
    )
    current = current.annotate(basis_piece=F("basis__piece"))
    current = more(current) if more else current
    prices = [p for p in current if p.product.is_sold and p.cost is not None and p.cost > 0]
    tests = _tests_of(price for price in prices if price.basis_piece is None or not price.paid)
    found = []
    for price in prices:
        test = tests.get(price.from_test)
        piece = price.basis_piece or (test.piece_id if test else None)
        paid = price.paid or (UnitPrice(test.price_amount, Unit(test.price_per)) if test else None)
        if piece is not None and paid is not None and paid.amount > 0:
            found.append(Depending(price, piece, paid))
    return found


def _tests_of(prices: Iterable[Price]) -> dict[UUID, CuttingTest]:
    """The tests of prices that do not say themselves what they rest on: one query, if any."""
    wanted = {price.from_test for price in prices if price.from_test}
    rows = CuttingTest.objects.only("piece_id", "price_amount", "price_per")
    return rows.in_bulk(wanted) if wanted else {}


@dataclass(frozen=True)
class PieceCost:
    """A piece with what the prices on it were made from."""

    piece: Piece
    paid: UnitPrice
    """The newest that a price was made from."""
    products: int
    lowest: Decimal
    """Of what prices were made from, by the unit of `paid`; `highest` likewise."""
    highest: Decimal


def pieces_behind(rows: Iterable[Depending]) -> list[PieceCost]:
    """The pieces that prices rest on, with the newest price paid among them: one query."""
    by_piece: dict[int, list[Depending]] = {}
    for row in rows:
        by_piece.setdefault(row.piece_id, []).append(row)
    found = []
    for pk, piece in Piece.everything.in_bulk(by_piece).items():
        newest = max(by_piece[pk], key=lambda row: row.price.pk)
        per = newest.paid.per
        paid = [round_half_up(row.paid.to(per), 2) for row in by_piece[pk]]
        found.append(PieceCost(piece, newest.paid, len(paid), min(paid), max(paid)))
    return sorted(found, key=lambda one: (one.piece.species, one.piece.shown_name))


class FullCosts:
    """Costs worked out in full, each basis, school and price once. One query for all bases."""

    def __init__(self, rows: Iterable[Depending]) -> None:
        wanted = {row.price.basis_id for row in rows} - {None}
        self.bases = Basis.objects.in_bulk(wanted)
        self.tests: dict[int, tuple[CoreTest, dict[str, str]]] = {}
        self.found: dict[tuple[Any, ...], dict[str, UnitPrice]] = {}

    def cost(self, row: Depending, now: UnitPrice) -> Decimal | None:
        """Of one unit of sale; None where there is no basis, or the school has no answer."""
        basis = self.bases.get(row.price.basis_id)
        if basis is None or row.price.school not in list(CostingSchool):
            return None
        test, names = self._test(basis)
        key = (basis.pk, row.price.school, now)
        if key not in self.found:
            self.found[key] = in_full(test, CostingSchool(row.price.school), now)
        name = names.get(row.product.cut.key)
        cost = self.found[key].get(name) if name else None
        return None if cost is None else cost.to(Unit(row.product.per))

    def _test(self, basis: Basis) -> tuple[CoreTest, dict[str, str]]:
        if basis.pk not in self.tests:
            names = {
                output["cut"]: same_name(output["name"])
                for output in basis.document["outputs"]
                if "cut" in output
            }
            self.tests[basis.pk] = read_document(basis.document).test, names
        return self.tests[basis.pk]


def standing_of(price: Price) -> PricedProduct:
    """A price as the core reprices it: at its target, or else at the margin it was made with."""
    product, cost = price.product, price.cost
    loads: Loads = loads_of(product)
    target = product.target_margin
    if target is None:
        target = margin_at(price.amount, cost, loads, product.tax)
    policy = Policy(target, endings_of(product), floor_of(product))
    return PricedProduct(price.amount, cost, policy, loads, product.tax or ZERO)
