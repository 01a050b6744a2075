"""Give and take between products of the same meat, at today's prices."""

import tomllib
from dataclasses import dataclass, replace
from decimal import Decimal
from functools import lru_cache
from typing import Any

from cutting.errors import BadValue
from cutting.prices.give_take import Layer, MovedMeat, Pieces, Side, give_and_take
from cutting.quantities import Unit, UnitPrice, Weight, foot
from drawings.giving_seam import SeamPicture, bars, seam_picture
from rooms.catalog.queries.shipped import DATA
from rooms.common.web.forms import tidy
from rooms.pricebook.models import Price, Product
from rooms.pricing.queries.giving_fields import GivingForm
from wording.pencil import money, profit_shown

SIDES = {"give": "givers", "take": "takers"}
BAR = 220.0
"""The longer bar of what was brought, in the picture's units."""


@lru_cache(maxsize=1)
def links() -> dict[str, dict[str, Any]]:
    """The linked products that ship, by key."""
    return tomllib.loads((DATA / "links.toml").read_text(encoding="utf-8"))


def links_of(piece_key: str) -> list[tuple[str, str]]:
    """Key and name of the links that touch a piece."""
    return [(key, link["name"]) for key, link in links().items() if piece_key in link["pieces"]]


@dataclass(frozen=True)
class SideView:
    """A product in the sum: its price as shown or typed, in the form field `field`."""

    field: str
    name: str
    price: str
    share: Decimal
    value: Decimal | None
    fault: str


@dataclass(frozen=True)
class StopView:
    """A place the seam may be moved to, with what the shop wins or loses there, in words."""

    amount: str
    at: float
    says: str


@dataclass(frozen=True)
class ValueBar:
    """A sum of money with its length in the picture."""

    words: str
    value: Decimal
    length: float


@dataclass(frozen=True)
class GivingView:
    key: str
    link: dict[str, Any]
    form: GivingForm
    givers: list[SideView]
    takers: list[SideView]
    moved: MovedMeat | None
    fault: str
    warning: str
    picture: SeamPicture | None
    stops: list[StopView]

    @property
    def amount(self) -> str:
        """The amount as typed."""
        return tidy(self.form["amount"].value())

    @property
    def says(self) -> str:
        """The amount and what it wins or loses, beside the seam."""
        if self.moved is None:
            return f"{self.amount} {self.link['unit']}"
        return _says(self.amount, self.link["unit"], self.moved)

    @property
    def bars(self) -> list[ValueBar]:
        """What the moved meat brought and brings now."""
        if self.moved is None:
            return []
        lengths = bars((self.moved.given, self.moved.taken), BAR)
        return [
            ValueBar("it brought", self.moved.given, lengths[0]),
            ValueBar("it brings now", self.moved.taken, lengths[1]),
        ]

    @property
    def gain_shown(self) -> Decimal:
        """What is won or lost, footing with the two sums as they are printed."""
        return profit_shown(self.moved.taken, self.moved.given) if self.moved else Decimal(0)

    @property
    def size_faults(self) -> list[str]:
        """What is wrong with the amount and the sizes; a price's stands in its row."""
        return [fault for name in self.form.numbers() if (fault := self.form.fault(name))]

    @property
    def has_faults(self) -> bool:
        return bool(self.fault or self.form.errors)


def giving(key: str, typed: dict[str, str]) -> GivingView:
    """The sum for one link from what was typed, usual values where nothing was: two queries."""
    link = links()[key]
    prices = _prices(link)
    form = GivingForm(link, {**_named("give", link, prices), **_named("take", link, prices)}, typed)
    numbers = form.numbers()
    givers, give = _sides("give", link["givers"], prices, form)
    takers, take = _sides("take", link["takers"], prices, form)
    moved, fault = None, ""
    if None not in numbers.values() and None not in (*give, *take):
        try:
            moved = give_and_take(_amount(link["kind"], numbers), give, take)
        except BadValue as bad:
            fault = str(bad)
    picture = _picture(link, numbers["amount"])
    return GivingView(
        key=key,
        link=link,
        form=form,
        givers=_valued(givers, give, moved),
        takers=_valued(takers, take, moved),
        moved=moved,
        fault=fault,
        warning=_warning(link, numbers["amount"], form.ribs),
        picture=picture,
        stops=_stops(link, picture, numbers, (give, take) if moved else None),
    )


def _picture(link: dict[str, Any], amount: Decimal | None) -> SeamPicture | None:
    if amount is None:
        return None
    most, step = Decimal(link["most"]), Decimal(link["step"])
    return seam_picture(link["kind"], amount, most=most, step=step)


def _stops(
    link: dict[str, Any], picture: SeamPicture | None, numbers: dict[str, Any], sides: Any
) -> list[StopView]:
    """Where the seam may go; each says what it wins there while the prices are known."""
    if picture is None:
        return []
    stops = []
    for stop in picture.stops:
        amount = f"{stop.amount.normalize():f}"
        says = f"{amount} {link['unit']}"
        if sides:
            weight = _amount(link["kind"], {**numbers, "amount": stop.amount})
            says = _says(amount, link["unit"], give_and_take(weight, *sides))
        stops.append(StopView(amount, stop.at, says))
    return stops


def _says(amount: str, unit: str, moved: MovedMeat) -> str:
    gain = profit_shown(moved.taken, moved.given)
    return f"{amount} {unit}: {'lost' if gain < 0 else 'won'} {money(abs(gain))}"


def _amount(kind: str, numbers: dict[str, Any]) -> Weight:
    if kind == "layer":
        return Layer(numbers["length"], numbers["width"], numbers["amount"]).weight(Unit.LB)
    if kind == "pieces":
        return Pieces(numbers["amount"], Weight(numbers["each"], Unit.LB)).weight(Unit.LB)
    return Weight(numbers["amount"], Unit.LB)


def _prices(link: dict[str, Any]) -> dict[str, tuple[Product, Decimal | None]]:
    keys = [side["cut"] for side in (*link["givers"], *link["takers"])]
    products = {
        p.cut.key: p for p in Product.objects.filter(cut__key__in=keys).select_related("cut")
    }
    current = Price.objects.current(products=[p.pk for p in products.values()])
    amounts = {price.product_id: price.amount for price in current}
    return {key: (product, amounts.get(product.pk)) for key, product in products.items()}


def _named(
    role: str, link: dict[str, Any], prices: dict[str, Any]
) -> dict[str, tuple[str, Decimal | None]]:
    """Name and price of each side's product, by the field of its price."""
    found = {}
    for i, side in enumerate(link[SIDES[role]]):
        product, amount = prices.get(side["cut"], (None, None))
        name = product.name if product else side["cut"].replace("-", " ")
        found[f"{role}-{i}"] = (name, amount)
    return found


def _sides(
    role: str, sides: list[dict[str, Any]], prices: dict[str, Any], form: GivingForm
) -> tuple[list[Any], list[Any]]:
    """The sides as shown and as the core takes them; None where a price is missing or wrong."""
    shown, core = [], []
    for i, side in enumerate(sides):
        product, _ = prices.get(side["cut"], (None, None))
        field, share = f"{role}-{i}", Decimal(side["share"])
        name = form.fields[field].label.removeprefix("Price of ")
        number = form.cleaned_data.get(field)
        text = tidy(form[field].value())
        shown.append(SideView(field, name, text, share, None, form.fault(field)))
        per = Unit(product.per) if product else Unit.LB
        core.append(None if number is None else Side(name, UnitPrice(number, per), share))
    return shown, core


def _valued(
    shown: list[SideView], core: list[Side | None], moved: MovedMeat | None
) -> list[SideView]:
    """The sides with their values, rounded so that they foot with the sum above them."""
    if moved is None:
        return shown
    values = foot([side.value(moved.weight) for side in core if side]).parts
    return [replace(view, value=value) for view, value in zip(shown, values, strict=True)]


def _warning(link: dict[str, Any], amount: Decimal | None, ribs: int | None) -> str:
    """The rack that gets too short for the buyer's item, by where the side was broken."""
    if amount is None or ribs is None:
        return ""
    left = ribs - amount
    if left >= link["least_left"]:
        return ""
    return (
        f"A rack of {ribs} ribs keeps {left:f}: fewer than the {link['least_left']} the"
        " buyer's item asks for. Sell it as a short rack."
    )
