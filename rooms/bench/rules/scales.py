"""The shop's scales as its settings say: the first, and any more."""

from dataclasses import dataclass

from django.conf import settings
from django.http import HttpRequest


@dataclass(frozen=True)
class ScaleAt:
    """One scale: its name on the readings, its plate, its bridge, and the key they share."""

    name: str
    label: str
    url: str
    key: str
    capacity: str
    unit: str
    division: str


COOKIE = "scale"


def scales() -> list[ScaleAt]:
    first = {
        "name": "block",
        "label": "Block scale",
        "url": settings.SCALE_URL,
        "key": settings.SCALE_KEY,
        **settings.SCALE,
    }
    return [ScaleAt(**{**first, **more}) for more in ({}, *settings.MORE_SCALES)]


def scale_named(name: str) -> ScaleAt | None:
    return next((scale for scale in scales() if scale.name == name), None)


def scale_of(request: HttpRequest) -> ScaleAt:
    """The scale this tablet has chosen, else the first."""
    return scale_named(request.COOKIES.get(COOKIE, "")) or scales()[0]
