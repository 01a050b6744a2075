"""The grinder's house rules as they stand."""

from decimal import Decimal

from rooms.grinder.models import GrinderRules


def house_rules() -> GrinderRules:
    """What ships where the shop has said nothing: one query."""
    return GrinderRules.objects.first() or GrinderRules()


def tightened(rules: GrinderRules) -> dict[str, Decimal]:
    """The shop's own most fat of each name that it limits."""
    return {name: Decimal(share) for name, share in rules.most_fat.items()}
