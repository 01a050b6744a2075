"""Where on a piece's shape the outputs of a plan are cut, and what of that cannot be. No database."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from cutting.errors import Fault
from cutting.layout.placing import (
    THICKER,
    THINNER,
    Stretch,
    longest_free,
    share_out,
    target_ratio,
)
from cutting.layout.profile import MM
from cutting.quantities import ZERO, Unit, Weight, working
from cutting.sheet.portioning import parse_thickness
from rooms.catalog.queries.shapes import Shape, part_of, shapes
from wording.pencil import percent

FACE = MM["in"] / 4
"""A usual face cut. Common practice, no published source."""
SLACK = MM["in"] / 2
"""How far two products of one stretch may move their border. Common practice, no published source."""


@dataclass(frozen=True)
class Place:
    """What an output of a plan says of where it is cut, how thick and how heavy."""

    name: str
    part: str = ""
    zone: str = ""
    share: Decimal | None = None
    thickness: str = ""
    target: Weight | None = None
    cut: str = ""
    key: str = ""
    """Its identity within the plan, whatever it is called."""

    @classmethod
    def of_document(cls, output: dict[str, Any]) -> "Place":
        target, share = output.get("target"), output.get("share")
        return cls(
            output["name"],
            output.get("part", ""),
            output.get("zone", ""),
            None if share is None else Decimal(share),
            output.get("thickness", ""),
            None if target is None else Weight(Decimal(target["value"]), Unit(target["unit"])),
            output.get("cut", ""),
            output.get("key", output["name"]),
        )

    @classmethod
    def of_row(cls, output: Any) -> "Place":
        """Of a PlanOutput with its cut."""
        target = None
        if output.target_value is not None:
            target = Weight(output.target_value, Unit(output.target_unit))
        cut = output.cut.key if output.cut else ""
        return cls(
            output.name, output.part, output.zone, output.share, output.thickness, target, cut
        )

    @property
    def thickness_mm(self) -> Decimal | None:
        inches = parse_thickness(self.thickness) if self.thickness else None
        if inches is None:
            return None
        return Decimal(inches.numerator) / Decimal(inches.denominator) * MM["in"]


def made_words(piece: str, output: Any) -> str:
    """Say what a step makes, as its plan has it: "Center filet: 1.75 in, 7 oz, from the center"."""
    shape = part_of(piece, output.part) if output.part else None
    zone = shape.zone(output.zone) if shape else None
    bones = f"{output.bones} bone{'' if output.bones == '1' else 's'}" if output.bones else ""
    target = f"{output.target_value:f} {output.target_unit}" if output.target_value else ""
    count = f"{output.usual_count} from a piece" if output.usual_count else ""
    where = f"from the {zone.name}" if zone is not None and not zone.is_taken_apart else ""
    told = ", ".join(one for one in (output.thickness, bones, target, count, where) if one)
    return f"{output.name}: {told}" if told else output.name


def is_apart(shape: Shape, place: Place) -> bool:
    """Whether a product lies beside others along its stretch: ribs below an eye."""
    zone = shape.zone(place.zone)
    return zone is not None and zone.is_taken_apart


def stretches_of(
    shape: Shape, length: Decimal, places: Sequence[Place], bones: int | None = None
) -> dict[str, list[Stretch]]:
    """Return where each of these may be cut from a shape of a length in mm, by its name.

    Products of one zone share it by their usual shares, in their order; those without a zone share
    the longest stretch that no zone takes.
    """
    bones = bones or shape.bones
    zones = {
        key: shape.stretches(zone, length, bones)
        for key in dict.fromkeys(one.zone for one in places)
        if (zone := shape.zone(key)) is not None
    }
    profile = shape.profile(length, shape.aspect * 100, Decimal(100))

    def shared(among: list[Place], free: Stretch) -> dict[str, list[Stretch]]:
        if len(among) < 2 or not all(one.share for one in among):
            return {one.name: [free] for one in among}
        own = share_out(profile, [one.share or ZERO for one in among], free)
        return {
            one.name: [(max(start - SLACK, free[0]), min(end + SLACK, free[1]))]
            for one, (start, end) in zip(among, own, strict=True)
        }

    found: dict[str, list[Stretch]] = {}
    for key, stretches in zones.items():
        among = [one for one in places if one.zone == key]
        if len(stretches) == 1:
            found |= shared(among, stretches[0])
        else:
            found |= {one.name: stretches for one in among}
    rest = [one for one in places if one.zone not in zones]
    taken = [stretch for stretches in zones.values() for stretch in stretches]
    free = longest_free(length, taken if shape.bones else [*taken, (ZERO, FACE)])
    if rest and free is not None:
        found |= shared(rest, free)
    return found


def ratio_of(
    shape: Shape, usual: Weight | None, place: Place, stretches: Sequence[Stretch]
) -> Decimal | None:
    """Return the target of a product over what a slice of its thickness weighs where it is cut;
    None where not both are said."""
    mm = place.thickness_mm
    if mm is None or place.target is None or usual is None:
        return None
    with working():
        weight = Weight(usual.value * shape.share, usual.unit)
    profile = shape.usual(weight, shape.length)
    return target_ratio(profile, weight, place.target, mm, stretches, shape.across)


def place_faults(
    piece: str, usual: Weight | None, plan: dict[str, Any], muscles: Mapping[str, str]
) -> list[tuple[str, Fault]]:
    """Return, with the key of its output, what cannot be of where a plan's products are cut: a part or a
    stretch that is not there or not free, another muscle than lies there, a target that no slice of its
    thickness weighs.

    `plan`: of a document. `muscles`: of cuts, both keys. What names no part is not compared.
    """
    places = [Place.of_document(output) for output in plan["outputs"]]
    found: list[tuple[str, Fault]] = []
    by_part: dict[str, dict[str, list[Stretch]]] = {}
    for place in places:
        path = f"plan {plan['name']}, {place.name}"
        shape = part_of(piece, place.part) if place.part else None
        if place.part and shape is None:
            right = ", ".join(one.key or "whole" for one in shapes().get(piece, ())) or "none"
            wrong = f"the piece has no part “{place.part}”"
            found.append((place.key, Fault(path, wrong, f"one of: {right}")))
        if shape is None:
            continue
        if place.zone and shape.zone(place.zone) is None:
            right = ", ".join(one.key for one in shape.zones) or "none"
            wrong = f"“{place.part}” has no stretch “{place.zone}”"
            found.append((place.key, Fault(path, wrong, f"one of: {right}")))
            continue
        muscle = muscles.get(place.cut)
        if muscle is not None and muscle not in shape.muscles:
            wrong = f"{muscle} does not lie in {shape.name or 'this piece'}"
            right = "a cut of " + ", ".join(sorted(shape.muscles))
            found.append((place.key, Fault(path, wrong, right)))
        lying = by_part.setdefault(place.part, {})
        if not lying:
            among = [one for one in places if one.part == place.part]
            lying |= stretches_of(shape, shape.length, among)
        if place.name not in lying:
            if not place.thickness and place.target is None:
                continue  # trim is taken where it lies
            wrong = "the stretches of the other products leave nothing of it"
            found.append((place.key, Fault(path, wrong, "a stretch of its own is right")))
            continue
        told = _target_faults(path, place, ratio_of(shape, usual, place, lying[place.name]))
        found += [(place.key, fault) for fault in told]
    return found


def _target_faults(path: str, place: Place, ratio: Decimal | None) -> list[Fault]:
    if ratio is None or place.target is None or THINNER <= ratio <= THICKER:
        return []
    with working():
        weight = place.target.value / ratio
    wrong = (
        f"a slice {place.thickness} thick weighs about {weight:.1f} {place.target.unit} there, and"
        f" {place.target} is asked for ({percent(ratio)})"
    )
    least, most = (f"{share * 100:.0f}" for share in (THINNER, THICKER))
    right = f"a target of {least} to {most} % of it, or another thickness, is right"
    return [Fault(path, wrong, right)]
