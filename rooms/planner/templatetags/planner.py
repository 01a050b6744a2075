"""Looking a thing up by its key."""

from collections.abc import Mapping
from typing import Any

from django import template

register = template.Library()


@register.filter
def at(things: Mapping[str, Any], key: str) -> Any:
    """`jobs|at:box.key`."""
    return things[key]
