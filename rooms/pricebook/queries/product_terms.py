"""The shop's price endings, loads and trays as the core's values."""

from decimal import Decimal

from cutting.prices.margins import Loads
from cutting.quantities import EndingRule, Unit, Weight
from rooms.pricebook.models import Ending, Product
from rooms.shop.queries.current import house
from rooms.shop.queries.endings import rule_of
from wording.pencil import percent


def endings() -> EndingRule:
    """The shop's rule, where neither product nor family has one."""
    now = house()
    return rule_of(now.endings, now.ending_direction)


def endings_of(product: Product | None) -> EndingRule:
    """Its own rule, else its family's, else the shop's. Both must be loaded with the product."""
    if product is None:
        return endings()
    own: Ending | None = product.ending or (product.family.ending if product.family_id else None)
    return endings() if own is None else rule_of(own.bands, own.direction)


def floor_of(product: Product | None) -> Decimal | None:
    """The margin below which a price is told: its own, else the shop's."""
    own = product.floor_margin if product else None
    return house().floor_margin if own is None else own


def tray_of(product: Product) -> Decimal | None:
    """A usual tray in the product's unit of sale."""
    if product.tray_weight is None:
        return None
    return Weight(product.tray_weight, Unit(product.tray_unit)).to(Unit(product.per))


def loads_of(product: Product | None) -> Loads:
    """What one unit carries beside the meat, as far as the product carries it."""
    if product is None:
        return Loads()
    is_packed = product.carries_packaging and product.tray_id
    return Loads.of(
        shrink=product.shrink,
        minutes=product.minutes if product.carries_labour else None,
        rate=house().labour_rate,
        packing=product.tray.cost if is_packed else None,
        tray=tray_of(product) if is_packed else None,
    )


def usual_target() -> str:
    return as_typed(house().target_margin)


def as_typed(share: Decimal | None) -> str:
    """0.425 → 42.5, as one would type it."""
    return "" if share is None else percent(share).removesuffix(" %").removesuffix(".0")
