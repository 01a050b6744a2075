"""One line of the price builder: an output with what the book says, as the core prices it."""

from collections.abc import Callable
from dataclasses import dataclass
from decimal import Decimal

from cutting.errors import BadValue
from cutting.prices.ladder import Priced, PriceLine
from cutting.quantities import Unit, UnitPrice, Weight, tray_sticker
from rooms.bench.models import Output
from rooms.pricebook.models import NeighbourPrice, Product
from rooms.pricebook.queries.book import other_unit
from rooms.pricebook.queries.product_terms import as_typed, endings_of, floor_of, loads_of, tray_of
from rooms.pricing.queries.wishes import COST, Wish, read_price, read_share
from wording.pencil import money
from wording.price import comfort_words


def other_words(product: Product | None, price: Decimal | None) -> str:
    found = other_unit(product, price) if product and price else None
    return f"{money(found[0])} a {found[1]}" if found else ""


@dataclass(frozen=True)
class PriceRow:
    """One product's price in the making. Money is per `per`."""

    id: int
    name: str
    look: str
    product: Product | None
    per: str
    weight: Decimal
    cost: Decimal | None
    target: str
    usual_target: str
    rung: str
    is_locked: bool
    typed: str
    priced: Priced
    last: Decimal | None
    tray: Decimal | None
    comfort: str
    neighbour: NeighbourPrice | None
    adders: frozenset[int]
    share: str
    """Its pooled yield with the interval, in words."""
    fault: str

    @property
    def target_field(self) -> str:
        return f"target-{self.id}"

    @property
    def rung_field(self) -> str:
        return f"rung-{self.id}"

    @property
    def usual_rung(self) -> str:
        """The rung that is used while none is typed."""
        rung = self.priced.line.rung
        return "" if rung is None else money(rung)

    @property
    def proposal(self) -> Priced | None:
        return self.priced if self.priced.price is not None else None

    @property
    def price(self) -> Decimal | None:
        return self.priced.price

    @property
    def other(self) -> str:
        """In the other unit, where its tag shows both."""
        return other_words(self.product, self.price)

    @property
    def sticker(self) -> Decimal | None:
        return tray_sticker(self.price, self.tray) if self.price and self.tray else None


@dataclass(frozen=True)
class KnownTargets:
    """What the database says about one output."""

    output: Output
    product: Product | None
    unit: Unit
    weight: Decimal
    cost: Decimal | None
    last: Decimal | None
    neighbour: NeighbourPrice | None
    look: str
    share: str

    @property
    def per(self) -> Unit:
        return Unit(self.product.per if self.product else self.output.price_per)

    def to_per(self, money: Decimal | None) -> Decimal | None:
        return None if money is None else UnitPrice(money, self.unit).to(self.per)


def adders_of(wish: Wish, known: list[KnownTargets]) -> dict[int, frozenset[int]]:
    """The steps of each output: as ticked, or the product's usual ones."""
    if wish.adders is not None:
        return {one.output.pk: wish.adders.get(one.output.pk, frozenset()) for one in known}
    return {
        one.output.pk: frozenset(adder.pk for adder in one.product.adders.all())
        if one.product
        else frozenset()
        for one in known
    }


def standing_price(one: KnownTargets, wish: Wish) -> tuple[Decimal | None, str]:
    """The price that stands whatever is solved, or what is wrong with it."""
    pk = one.output.pk
    text = wish.prices.get(pk, "").strip() or wish.shown.get(pk, "")
    if not text or not (wish.holds or wish.moved(pk) or pk in wish.locked):
        return None, ""
    if wish.holds and not wish.moved(pk):
        text = wish.shown.get(pk, text)
    try:
        return read_price(text), ""
    except BadValue as bad:
        return None, str(bad)


def line_of(
    one: KnownTargets, wish: Wish, price: Decimal | None, target: Decimal | None
) -> PriceLine:
    product, per = one.product, one.per
    cost = one.to_per(one.cost)
    own = wish.targets.get(one.output.pk, "").strip()
    if own:
        target = _read(own)
    elif product is not None and product.target_margin is not None:
        target = product.target_margin
    return PriceLine(
        one.output.name,
        Weight(one.weight, one.unit).to(per),
        cost,
        rung_of(one, wish, cost),
        endings_of(product),
        per,
        locked=price,
        floor=floor_of(product),
        loads=loads_of(product),
        tax=product.tax if product else Decimal(0),
        target=target,
    )


def _read(text: str) -> Decimal | None:
    try:
        return read_share(text)
    except BadValue:
        return None


def rung_of(one: KnownTargets, wish: Wish, cost: Decimal | None) -> Decimal | None:
    """As typed, else the last price or the cost by the school."""
    text = wish.rungs.get(one.output.pk, "").strip()
    if text:
        try:
            return read_price(text, "Rung")
        except BadValue:
            return None
    if wish.ladder == COST:
        return cost if cost and cost > 0 else None
    return one.last or (cost if cost and cost > 0 else None)


Sizes = list[tuple[str, int]]
"""The shop's trays by name, with how many portions fit."""


def row_of(one: KnownTargets, wish: Wish, priced: Priced, fault: str, sizes: Sizes) -> PriceRow:
    product, pk = one.product, one.output.pk
    tray = tray_of(product) if product else None
    limit = product.family.comfort if product and product.family_id else None
    comfort = ""
    if product and priced.price is not None and tray and limit:
        comfort = comfort_words(priced.price, tray, limit, product.portions, sizes)
    target, rung = wish.targets.get(pk, "").strip(), wish.rungs.get(pk, "").strip()
    moved = wish.moved(pk)
    return PriceRow(
        id=pk,
        name=one.output.name,
        look=one.look,
        product=product,
        per=one.per.value,
        weight=priced.line.weight,
        cost=priced.line.cost,
        target=target,
        usual_target=as_typed(product.target_margin) if product else "",
        rung=rung,
        is_locked=pk in wish.locked or moved,
        typed=wish.prices.get(pk, "").strip() if fault else "",
        priced=priced,
        last=one.last,
        tray=tray,
        comfort=comfort,
        neighbour=one.neighbour,
        adders=wish.steps_of(pk),
        share=one.share,
        fault=fault or _wrong(target, read_share) or _wrong(rung, lambda t: read_price(t, "Rung")),
    )


def _wrong(text: str, read: Callable[[str], Decimal]) -> str:
    if not text:
        return ""
    try:
        read(text)
    except BadValue as bad:
        return str(bad)
    return ""
