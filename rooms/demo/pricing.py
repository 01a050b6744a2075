"""How the invented shop prices: families, trays, steps that add value, what neighbours ask."""

import random
import uuid
from datetime import date, datetime, timedelta
from decimal import Decimal
from typing import Any

from django.utils import timezone

from cutting.quantities import UnitPrice
from rooms.catalog.models import Piece
from rooms.demo.cooler import random_key
from rooms.pricebook.actions.prices import NewPrice, Origin, carried, set_prices
from rooms.pricebook.actions.undo import undo
from rooms.pricebook.models import Adder, Ending, Family, NeighbourPrice, Price, Product, TraySize
from rooms.pricing.actions.review import Accepting, Moving, accept, start_review
from rooms.staff.models import Person

TRAYS = (
    ("2", "8 × 5 in", 2, "0.09"),
    ("4", "9 × 7 in", 4, "0.13"),
    ("8", "10 × 8 in", 6, "0.18"),
    ("17", "8 × 4 in", 1, "0.07"),
)
"""Code, inside, portions, cost of the tray; pad, film and label are the same for all."""

ADDERS = (
    ("Tenderize", "0.25", "0.5", "0", "0", "Feed with the pusher, never by hand; guard in place."),
    ("Slice thin", "0.30", "1", "0", "0", "Slicer: guard on, cut glove, nobody under 18."),
    ("Cube", "0.25", "0.7", "0", "0", "Feed with the pusher, never by hand; guard in place."),
    ("Tie", "0.20", "1.2", "0.04", "0", ""),
    ("Season", "0.40", "0.8", "0.22", "0.04", "Write the allergens of the mix on the label."),
    ("Skewer", "0.60", "3", "0.10", "0", "Points away from the hand; count the skewers."),
    (
        "Stuff and roll",
        "0.80",
        "3.5",
        "0.55",
        "0.15",
        "Keep the stuffing under 5 °C; write its allergens on the label.",
    ),
)
"""Name, price, minutes and material a lb, pick-up, caution."""

MAKES: dict[str, tuple[str, str, list[str]]] = {
    "Tenderize": ("tenderized", "", []),
    "Cube": ("cubed", "", []),
    "Season": ("seasoned", "salt, black pepper, garlic, paprika, rapeseed oil", []),
    "Stuff and roll": (
        "seasoned",
        "bread (wheat, yeast), onion, parsley, egg, salt",
        ["wheat", "egg"],
    ),
}
"""What a step makes of the meat, its ingredients and allergens."""

FAMILIES = (
    ("Steaks", "30"),
    ("Roasts", "45"),
    ("Chops and ribs", "22"),
    ("Everyday", "14"),
)
STORIES = {
    "beef-flat-iron": "Tender as a strip for less. Hot pan, three minutes a side.",
    "beef-ranch-steak": "Lean and meaty. Marinate it, grill it, slice across the grain.",
    "beef-petite-tender": "Round as a small filet. Roast whole, carve in coins.",
    "beef-centre-filet": "The most tender of all. Sear, rest, nothing else.",
    "pork-loin-chop": "Cut this morning from the middle of the loin.",
}
EVERYDAY = ("ground", "stew", "stir", "kebab", "trim", "bones", "diced")
PLACES = ("The shop at the ferry", "North end market")


def make_counter(today: date, manager: Person, rng: random.Random) -> None:
    cents = {
        "pad_cost": Decimal("0.03"),
        "film_cost": Decimal("0.04"),
        "label_cost": Decimal("0.02"),
    }
    trays = {
        code: TraySize.objects.create(
            code=code, inside=inside, fits=fits, tray_cost=Decimal(cost), **cents
        )
        for code, inside, fits, cost in TRAYS
    }
    for position, (name, price, minutes, material, pick_up, caution) in enumerate(ADDERS):
        makes, ingredients, allergens = MAKES.get(name, ("", "", []))
        Adder.objects.create(
            name=name,
            makes=makes,
            ingredients=ingredients,
            allergens=allergens,
            price=Decimal(price),
            minutes=Decimal(minutes),
            position=position,
            material=Decimal(material),
            pick_up=Decimal(pick_up),
            caution=caution,
        )
    roasts = Ending.objects.create(
        name="Roasts end in .99", bands=[{"endings": ["0.99"]}], direction="nearest"
    )
    families = {
        name: Family.objects.create(
            name=name, comfort=Decimal(comfort), ending=roasts if name == "Roasts" else None
        )
        for name, comfort in FAMILIES
    }
    products = list(Product.objects.filter(is_sold=True).select_related("cut"))
    for product in products:
        _settle(product, families, trays)
    Product.objects.bulk_update(
        products,
        [
            "family",
            "tray",
            "portions",
            "shrink",
            "minutes",
            "carries_packaging",
            "story",
            "shows_both",
            "carries_labour",
            "counter",
        ],
    )
    cube, tie = Adder.objects.get(name="Cube"), Adder.objects.get(name="Tie")
    for product in products:
        if "stew" in product.cut.key or "kebab" in product.cut.key:
            product.adders.add(cube)
        elif product.cut.key in ("lamb-leg-rolled", "lamb-shoulder-rolled", "beef-rib-roast"):
            product.adders.add(tie)
    _neighbours(products, today, manager, rng)


def _settle(product: Product, families: dict[str, Any], trays: dict[str, Any]) -> None:
    """Family, tray and what it carries, by its name."""
    name, weight = product.cut.key, product.tray_weight or Decimal(1)
    if "roast" in name or "whole" in name or "rolled" in name or "picnic" in name:
        family, tray, portions = "Roasts", "8", None
    elif "rib" in name or "chop" in name or "cutlet" in name:
        family, tray, portions = "Chops and ribs", "8", 4
    elif any(word in name for word in EVERYDAY):
        family, tray, portions = "Everyday", "4", None
    else:
        family, tray, portions = "Steaks", "4" if weight > 1 else "2", 2
    product.family, product.tray, product.portions = families[family], trays[tray], portions
    product.shrink = Decimal("0.03") if family == "Everyday" else Decimal("0.015")
    product.minutes = Decimal("0.6")
    product.carries_packaging = family != "Roasts"
    product.story = STORIES.get(name, "")
    product.shows_both = product.cut.species == "lamb"
    product.counter = product.cut.counter


def _neighbours(products: list[Product], today: date, manager: Person, rng: random.Random) -> None:
    """What two invented shops were seen to ask, some weeks ago, for every third product."""
    asked = {price.product_id: price.amount for price in Price.objects.current()}
    NeighbourPrice.objects.bulk_create(
        NeighbourPrice(
            product=product,
            place=rng.choice(PLACES),
            per=product.per,
            by=manager,
            amount=(
                asked[product.pk] * Decimal(rng.choice(("0.93", "0.98", "1.04", "1.09")))
            ).quantize(Decimal("0.1"))
            - Decimal("0.01"),
            seen_on=today - timedelta(days=rng.randrange(4, 40)),
        )
        for product in products[::3]
        if product.pk in asked
    )


def make_book(now: datetime, manager: Person, rng: random.Random) -> None:
    """What happened to the book since: an invoice, a slip taken back, a price to come."""
    keys = ("beef-ribeye-steak", "beef-strip-steak", "pork-back-ribs", "beef-stew")
    ribeye, strip, ribs, stew = (Product.objects.get(cut__key=key) for key in keys)
    clod, lamb = (Piece.objects.get(key=key) for key in ("beef-shoulder-clod", "lamb-leg"))
    at = now - timedelta(days=9)
    moving = Moving(str(random_key(rng)), "delivery 9", {clod.pk: UnitPrice.of("4.55", "lb")})
    review = start_review(moving, manager.pk, at)
    for line in review.lines.all()[::2]:
        review.lines.filter(pk=line.pk).update(is_ticked=True)
    accept(review.pk, manager.pk, Accepting(uuid.uuid4()), at=at + timedelta(minutes=6))
    slip = set_prices(
        [NewPrice(stew, Decimal("9.79"))],
        Origin(manager.pk, why="stew week"),
        now - timedelta(days=5),
    )
    if slip is not None:
        undo(slip, manager.pk, now - timedelta(days=5, minutes=-3))
    prices = {price.product_id: price for price in Price.objects.current()}
    set_prices(
        [
            carried(prices[product.pk], product, Decimal(amount))
            for product, amount in ((ribeye, "18.99"), (strip, "16.99"), (ribs, "5.49"))
        ],
        Origin(
            manager.pk,
            why="first fine weekend: grilling",
            effective_on=timezone.localtime(now).date() + timedelta(days=5),
        ),
        now - timedelta(hours=3),
    )
    start_review(
        Moving(str(random_key(rng)), "entered", {lamb.pk: UnitPrice.of("7.15", "lb")}),
        manager.pk,
        now - timedelta(hours=2),
    )
