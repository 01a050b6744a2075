"""What a shopper is told: cards of what the shop sells, and a cut for a dinner."""

from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Any

from cutting.shopper import Answer, Grade, Method, Offer, dinner, grades_of
from rooms.catalog.models import Species
from rooms.pricebook.models import Price, Product
from rooms.pricebook.queries.book import prices_on
from rooms.shop.queries.current import house
from wording.shopper import METHOD_WORDS, Told


@dataclass(frozen=True)
class Card:
    """One product as its card says it."""

    product: Product
    price: Price | None
    told: Told

    @property
    def story(self) -> str:
        """The product's own sign text, else the cut's."""
        return self.product.story or self.product.cut.story


def card_of(product: Product, price: Price | None) -> Card:
    """Its cut and muscle must be loaded with it."""
    return Card(product, price, product.told)


def _sold(species: str) -> Any:
    rows = Product.objects.filter(is_sold=True).select_related("cut__muscle")
    rows = rows.prefetch_related("adders")
    rows = rows.filter(cut__species=species) if species in Species.values else rows
    return rows.order_by("cut__species", "name")


def cards(species: str, day: date) -> list[Card]:
    """Cards of everything that is sold and cooked: three queries."""
    products = list(_sold(species))
    prices = prices_on(day, [product.pk for product in products])
    found = [card_of(product, prices.get(product.pk)) for product in products]
    return [card for card in found if card.told.is_cooked]


@dataclass(frozen=True)
class Found:
    """A cut for the dinner: its card, its grades in the order of the ways, and the answer."""

    card: Card
    grades: list[Grade]
    answer: Answer | None
    a_head: Decimal | None


@dataclass(frozen=True)
class Dinner:
    methods: list[tuple[str, str]]
    method: str
    people: int
    rows: list[Found]

    @property
    def asked(self) -> int | None:
        """Which of the ways is asked for."""
        return [way for way, _ in self.methods].index(self.method) if self.method else None


def find_dinner(species: str, method: str, people: int, day: date) -> Dinner:
    """What is sold by the way of cooking, or with all its grades where no way is chosen: two
    queries. Raises BadValue for a number of people that is none."""
    found = {card.product.pk: card for card in cards(species, day)}
    grades = {pk: grades_of(card.product.cut.grades) for pk, card in found.items()}
    rows: list[Found]
    if method in list(Method):
        offers = [
            Offer(
                pk,
                grades[pk],
                card.product.cut.serves,
                card.price.unit_price if card.price else None,
            )
            for pk, card in found.items()
        ]
        answers = dinner(offers, Method(method), people, house().unit)
        rows = [
            Found(
                found[int(str(one.key))],
                list(grades[int(str(one.key))].values()),
                one,
                one.a_head(people),
            )
            for one in answers
        ]
    else:
        rows = [Found(card, list(grades[pk].values()), None, None) for pk, card in found.items()]
    ways = [(one.value, METHOD_WORDS[one]) for one in Method]
    return Dinner(ways, method if method in list(Method) else "", people, rows)
