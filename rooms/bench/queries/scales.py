"""The shop's scales: their plates as its settings say, their addresses and keys as the environment
does. A scale that only the environment names is taken to be like the first."""

from dataclasses import asdict, dataclass

from django.conf import settings
from django.http import HttpRequest

from rooms.shop.queries.current import house


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
    """All of them, the first first."""
    plates = {plate.name: asdict(plate) for plate in house().scales}
    first = next(iter(plates.values()))
    address = {"url": settings.SCALE_URL, "key": settings.SCALE_KEY}
    found = {first["name"]: ScaleAt(**first, **address)}
    for more in settings.MORE_SCALES:
        plate = plates.get(more["name"], {})
        found[more["name"]] = ScaleAt(**{**first, **address, **more, **plate})
    for name, plate in plates.items():
        if name not in found:
            found[name] = ScaleAt(**plate, url="", key="")
    return list(found.values())


def scale_named(name: str) -> ScaleAt | None:
    return next((scale for scale in scales() if scale.name == name), None)


def scale_of(request: HttpRequest) -> ScaleAt:
    """The scale this tablet has chosen, else the first."""
    return scale_named(request.COOKIES.get(COOKIE, "")) or scales()[0]
