"""What `layout` reads and prints: a piece, what may be cut from it, and where the knife goes.

See docs/formats/layout.md. Reading reports every fault with its JSON path.
"""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal
from fractions import Fraction
from math import ceil
from typing import Any

from cutting.errors import BadDocument, BadValue, Fault
from cutting.layout.profile import MM, MOST_STATIONS, Profile, Section, Station, is_lean
from cutting.layout.solver import NoLayout, lay_out
from cutting.layout.task import (
    MOST_PLACES,
    MOST_PRODUCTS,
    NO_CUT,
    NO_PRODUCT,
    Layout,
    Slice,
    Task,
    Zone,
)
from cutting.quantities import Unit, UnitPrice, Weight, working
from formats.reading import Reader, check_head, what
from formats.result import plain

FORMAT, VERSION = "mindful-tally.layout", 1
AREAS = {"cm2": Decimal(100), "in2": MM["in"] * MM["in"]}
"""mm² of one."""
LENGTH = 'a length such as {"value": "0.75", "unit": "in"} is right'


@dataclass(frozen=True, slots=True)
class LayoutDocument:
    """A layout that was read, and the unit its results are told in."""

    task: Task
    unit: str
    """Of lengths: that of the step."""


class LayoutReader(Reader):
    """Also reads lengths, in mm."""

    def length(
        self, holder: dict[str, Any], key: str, path: str, least: str = "0 or more"
    ) -> Decimal | None:
        """A length in mm; None, with its fault, for what is none."""
        path = f"{path}.{key}"
        if key not in holder:
            self.fault(path, "is missing", LENGTH)
            return None
        return self.sized(holder[key], path, MM, least)

    def sized(self, value: Any, path: str, units: dict[str, Decimal], least: str) -> Decimal | None:
        if not isinstance(value, dict):
            self.fault(path, what(value), LENGTH)
            return None
        number = self.decimal(value, "value", path, least)
        unit = value.get("unit")
        if not isinstance(unit, str) or unit not in units:
            right = f"{', '.join(units)} is right"
            self.fault(f"{path}.unit", what(unit, "unit" in value), right)
            return None
        if number is None:
            return None
        with working():
            return number * units[unit]

    def maybe(self, holder: dict[str, Any], key: str, path: str) -> Decimal | None:
        return self.length(holder, key, path) if key in holder else None

    def count(self, holder: dict[str, Any], key: str, path: str, least: int) -> int | None:
        value = holder.get(key)
        if isinstance(value, bool) or not isinstance(value, int) or value < least:
            self.fault(f"{path}.{key}", what(value), f"a whole number from {least} on is right")
            return None
        return value


def read_layout(data: Any) -> LayoutDocument:
    """The task of a document. Raises BadDocument with every fault found."""
    read = LayoutReader()
    top = read.object(data, "$")
    check_head(read, top, FORMAT, VERSION)
    piece = read.object(top.get("piece"), "$.piece")
    weight, profile = read.weight(piece, "weight", "$.piece"), _profile(read, piece)
    read.text(piece, "name", "$.piece")
    step, unit = Decimal(1), "mm"
    if "step" in top:
        found = read.length(top, "step", "$", "above 0")
        step = found or step
        unit = top["step"].get("unit", unit) if isinstance(top["step"], dict) else unit
    kerf = read.maybe(top, "kerf", "$") or Decimal(0)
    near, far = _faces(read, top)
    length = profile.length if profile else None
    rest = read.price(top, "rest", "$", "0 or more") if "rest" in top else None
    zones = _zones(read, top, length)
    bones = _bones(read, piece, step, length)
    products = _products(read, top, length, bones)
    if not read.faults and length is not None:
        _grid(read, step, kerf, near, far, length)
    if read.faults or weight is None or profile is None:
        raise BadDocument(tuple(read.faults))
    task = Task(weight, profile, products, step, kerf, near, far, zones, rest, bones)
    return LayoutDocument(task, str(unit))


def _grid(
    read: Reader, step: Decimal, kerf: Decimal, near: Decimal, far: Decimal, length: Decimal
) -> None:
    places = ceil(length / step)
    if places > MOST_PLACES:
        right = f"a wider one: at most {MOST_PLACES} places are right"
        read.fault("$.step", f"{step:f} mm makes {places} places", right)
    if kerf % step:
        read.fault("$.kerf", f"{kerf:f} mm", f"a multiple of the step, {step:f} mm, is right")
    if near + far >= length:
        read.fault("$.face", f"{near + far:f} mm of {length:f} mm", "less than the piece is right")


def _profile(read: LayoutReader, piece: dict[str, Any]) -> Profile | None:
    path = "$.piece"
    said = piece.get("section")
    if not isinstance(said, str) or said not in list(Section):
        read.fault(f"{path}.section", what(said, "section" in piece), ", ".join(Section))
        return None
    section = Section(said)
    rows = read.list(piece.get("stations"), f"{path}.stations")
    if len(rows) > MOST_STATIONS:
        read.fault(f"{path}.stations", f"{len(rows)}", f"at most {MOST_STATIONS} are right")
        return None
    stations = [_station(read, row, f"{path}.stations[{i}]", section) for i, row in enumerate(rows)]
    if any(one is None for one in stations):
        return None
    try:
        return Profile(section, tuple(one for one in stations if one is not None))
    except BadValue as bad:
        read.fault(f"{path}.{bad.field}", bad.wrong, bad.right)
        return None


def _station(read: LayoutReader, row: Any, path: str, section: Section) -> Station | None:
    one = read.object(row, path)
    at = read.length(one, "at", path)
    if section is Section.AREA:
        if "area" not in one:
            read.fault(f"{path}.area", "is missing", "an area in cm2 or in2 is right")
            return None
        area = read.sized(one["area"], f"{path}.area", AREAS, "0 or more")
        return None if at is None or area is None else Station(at, area=area)
    width, height = read.length(one, "width", path), read.length(one, "height", path)
    return None if at is None else Station(at, width, height)


def _faces(read: LayoutReader, top: dict[str, Any]) -> tuple[Decimal, Decimal]:
    if "face" not in top:
        return Decimal(0), Decimal(0)
    face = read.object(top["face"], "$.face")
    if isinstance(top["face"], dict) and not {"near", "far"} & set(face):
        read.fault("$.face", "has neither near nor far", "one of them is right")
    near, far = read.maybe(face, "near", "$.face"), read.maybe(face, "far", "$.face")
    return near or Decimal(0), far or Decimal(0)


def _zones(read: LayoutReader, top: dict[str, Any], length: Decimal | None) -> tuple[Zone, ...]:
    found = []
    for i, row in enumerate(read.list(top.get("zones", []), "$.zones")):
        path = f"$.zones[{i}]"
        one = read.object(row, path)
        name = read.text(one, "name", path)
        start, end = read.length(one, "from", path), read.length(one, "to", path)
        rule = one.get("rule")
        if rule not in (NO_CUT, NO_PRODUCT):
            read.fault(f"{path}.rule", what(rule, "rule" in one), "no_cut or no_product is right")
            continue
        if start is None or end is None:
            continue
        _within(read, path, start, end, length)
        found.append(Zone(name, start, end, str(rule)))
    return tuple(found)


def _within(read: Reader, path: str, start: Decimal, end: Decimal, length: Decimal | None) -> None:
    if end <= start:
        read.fault(f"{path}.to", f"{end:f} mm", f"more than {start:f} mm is right")
    elif length is not None and end > length:
        read.fault(f"{path}.to", f"{end:f} mm", f"within the piece, {length:f} mm, is right")


def _bones(
    read: LayoutReader, piece: dict[str, Any], step: Decimal, length: Decimal | None
) -> tuple[Decimal, ...] | None:
    if "bones" not in piece:
        return None
    path = "$.piece.bones"
    one = read.object(piece["bones"], path)
    count = read.count(one, "count", path, 1)
    rows = read.list(one.get("cuts"), f"{path}.cuts")
    cuts = [read.sized(row, f"{path}.cuts[{i}]", MM, "above 0") for i, row in enumerate(rows)]
    if count is not None and len(rows) != count - 1:
        read.fault(
            f"{path}.cuts", f"{len(rows)} places", f"{count - 1} are right for {count} bones"
        )
    found: list[Decimal] = []
    for i, cut in enumerate(cuts):
        if cut is None:
            continue
        where = f"{path}.cuts[{i}]"
        if found and cut <= found[-1]:
            read.fault(where, f"{cut:f} mm", f"more than {found[-1]:f} mm is right")
        elif length is not None and cut >= length:
            read.fault(where, f"{cut:f} mm", f"inside the piece, {length:f} mm, is right")
        elif cut % step:
            read.fault(where, f"{cut:f} mm", f"a multiple of the step, {step:f} mm, is right")
        found.append(cut)
    return tuple(found)


def _products(
    read: LayoutReader,
    top: dict[str, Any],
    length: Decimal | None,
    bones: tuple[Decimal, ...] | None,
) -> tuple[Slice, ...]:
    rows = read.list(top.get("products"), "$.products")
    if isinstance(top.get("products"), list) and not 0 < len(rows) <= MOST_PRODUCTS:
        read.fault("$.products", f"{len(rows)}", f"1 to {MOST_PRODUCTS} are right")
    found, names = [], set()
    for i, row in enumerate(rows[:MOST_PRODUCTS]):
        path = f"$.products[{i}]"
        one = read.object(row, path)
        name = read.text(one, "name", path)
        if name in names:
            read.fault(f"{path}.name", f"{name!a} stands there twice", "each name once is right")
        names.add(name)
        found.append(_product(read, one, path, name, length, bones))
    return tuple(found)


def _product(
    read: LayoutReader,
    one: dict[str, Any],
    path: str,
    name: str,
    length: Decimal | None,
    bones: tuple[Decimal, ...] | None,
) -> Slice:
    light, heavy = _weights(read, one, path)
    thin, thick = _thicknesses(read, one, path)
    many = None
    if "bones" in one:
        many = read.count(one, "bones", path, 1)
        if bones is None:
            read.fault(f"{path}.bones", "the piece names none", "bones in the piece are right")
        if "thickness" in one:
            read.fault(f"{path}.bones", "beside a thickness", "one of the two is right")
    elif light is None and thin is None and not {"weight", "thickness"} & set(one):
        read.fault(path, "has no limit", "a weight, a thickness or bones is right")
    price, each, aim = _money(read, one, path)
    outside = read.price(one, "outside", path, "0 or more") if "outside" in one else None
    least = read.count(one, "least", path, 0) if "least" in one else 0
    most = read.count(one, "most", path, 1) if "most" in one else None
    if least and most is not None and least > most:
        read.fault(f"{path}.least", f"{least}", f"at most {most} is right")
    start, end = read.maybe(one, "from", path), read.maybe(one, "to", path)
    if "from" in one or "to" in one:
        behind = end if end is not None else length
        if behind is not None and (end is not None or start is not None):
            _within(read, path, start or Decimal(0), behind, length)
    return Slice(
        name,
        lightest=light,
        heaviest=heavy,
        thinnest=thin,
        thickest=thick,
        price=price,
        each=each,
        outside=outside,
        aim=aim,
        least=least or 0,
        most=most,
        start=start,
        end=end,
        bones=many,
    )


def _weights(
    read: LayoutReader, one: dict[str, Any], path: str
) -> tuple[Weight | None, Weight | None]:
    if "weight" not in one:
        return None, None
    path = f"{path}.weight"
    limits = read.object(one["weight"], path)
    low, high = read.weight(limits, "least", path), read.weight(limits, "most", path)
    if low is not None and high is not None and low.to(Unit.G) > high.to(Unit.G):
        read.fault(f"{path}.most", f"{high}", f"{low} or more is right")
    return low, high


def _thicknesses(
    read: LayoutReader, one: dict[str, Any], path: str
) -> tuple[Decimal | None, Decimal | None]:
    if "thickness" not in one:
        return None, None
    path = f"{path}.thickness"
    limits = read.object(one["thickness"], path)
    low = read.length(limits, "least", path, "above 0")
    high = read.length(limits, "most", path, "above 0")
    if low is not None and high is not None and low > high:
        read.fault(f"{path}.most", f"{high:f} mm", f"{low:f} mm or more is right")
    return low, high


def _money(
    read: LayoutReader, one: dict[str, Any], path: str
) -> tuple[UnitPrice | None, Decimal | None, Weight | None]:
    if ("price" in one) == ("each" in one):
        wrong = "price and each" if "price" in one else "neither price nor each"
        read.fault(f"{path}.price", wrong, "one of the two is right")
        return None, None, None
    aim = read.weight(one, "aim", path) if "aim" in one else None
    if "price" in one:
        if "aim" in one:
            read.fault(f"{path}.aim", "without each", "an aim goes with a price for one")
        return read.price(one, "price", path), None, None
    return None, read.decimal(one, "each", path, "above 0"), aim


def solve_layout(document: LayoutDocument) -> Layout:
    """The layout. Raises BadDocument with a line for each limit that cannot be met."""
    try:
        return lay_out(document.task)
    except NoLayout as none:
        faults = [Fault(f"$.{one.field}", one.wrong, one.right) for one in none.reasons]
        raise BadDocument(tuple(faults)) from None


def write_layout(layout: Layout, unit: str) -> dict[str, Any]:
    """What `layout` prints: weights in the piece's unit, lengths in the step's."""
    task = layout.task

    def length(place: int) -> dict[str, str]:
        with working():
            return {"value": plain(task.at(place) / MM[unit]), "unit": unit}

    def weight(value: Fraction) -> dict[str, str]:
        return {"value": number(value), "unit": task.unit.value}

    density = task.profile.density(task.weight.to(Unit.G))
    rule = layout.plain
    return {
        "density": plain(density),
        "density_is_likely": is_lean(density),
        "parts": [
            {
                "from": length(part.start),
                "to": length(part.end),
                "product": None if part.product is None else task.products[part.product].name,
                "weight": weight(part.weight),
                "value": number(part.value),
            }
            for part in layout.parts
        ],
        "counts": {
            one.name: count for one, count in zip(task.products, layout.counts, strict=True)
        },
        "money": number(layout.money),
        "rest_weight": weight(layout.rest_weight),
        "kerf_weight": weight(layout.kerf_weight),
        "give_away": weight(layout.give_away),
        "marks": [length(mark) for mark in layout.marks],
        "plain_rule": None
        if rule is None
        else {
            "count": rule.count,
            "out_of_limits": rule.out_of_limits,
            "money": number(rule.money),
        },
    }


def number(value: Fraction) -> str:
    """A fraction as a plain decimal of up to 28 significant digits."""
    with working():
        return plain(Decimal(value.numerator) / Decimal(value.denominator))
