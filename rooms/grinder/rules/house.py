"""The grinder's house rules as they stand."""

import hashlib
import json
from decimal import Decimal

from rooms.grinder.models import GrinderRules


def house_rules() -> GrinderRules:
    """What ships where the shop has said nothing: one query."""
    return GrinderRules.objects.first() or GrinderRules()


def tightened(rules: GrinderRules) -> dict[str, Decimal]:
    """The shop's own most fat of each name that it limits."""
    return {name: Decimal(share) for name, share in rules.most_fat.items()}


def state_of(rules: GrinderRules) -> str:
    """A short mark of the rules: the same for the same values."""
    columns = {
        field.attname: str(getattr(rules, field.attname)) for field in rules._meta.concrete_fields
    }
    return hashlib.sha256(json.dumps(columns, sort_keys=True).encode()).hexdigest()[:16]
