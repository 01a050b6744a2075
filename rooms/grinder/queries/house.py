"""The grinder's house rules as they stand."""

from decimal import Decimal

from cutting.grinding.blend import BEEF
from cutting.grinding.names import GROUND_BEEF, most_fat_of
from rooms.grinder.models import GrinderRules


def house_rules() -> GrinderRules:
    """What ships where the shop has said nothing: one query."""
    return GrinderRules.objects.first() or GrinderRules()


def tightened(rules: GrinderRules) -> dict[str, Decimal]:
    """The shop's own most fat of each name that it limits."""
    return {name: Decimal(share) for name, share in rules.most_fat.items()}


def most_fat(species: str, name: str, rules: GrinderRules) -> Decimal | None:
    """Return the most fat that a name allows, as the shop tightened it; None for a name that no rule knows.
    Ground meat of a primal of beef is ground beef too: 9 CFR 319.15(a)."""
    is_ground = species == BEEF and name.startswith("ground ")
    return most_fat_of(GROUND_BEEF if is_ground else name, tightened(rules))
