"""The shipped data files, read and checked. No database here."""

import tomllib
from dataclasses import dataclass
from decimal import Decimal
from pathlib import Path

from cutting.cutting_test import Role, same_name
from cutting.errors import BadValue
from cutting.quantities import Weight, parse_decimal
from rooms.catalog.models import ROLE_OF_PILE, Pile, Species

DATA = Path(__file__).parent / "data"


@dataclass(frozen=True)
class ShippedOutput:
    name: str
    pile: Pile
    role: Role
    share: Decimal | None
    cut: str | None
    target: Weight | None
    is_counted: bool
    in_case: bool


@dataclass(frozen=True)
class ShippedPlan:
    key: str
    name: str
    is_sawn: bool
    outputs: tuple[ShippedOutput, ...]

    def __post_init__(self):
        shares = sum((o.share for o in self.outputs if o.share), Decimal(0))
        if shares > 1:
            raise BadValue(f"plan {self.key}", f"shares sum to {shares}", "at most 1 is right")
        names = [same_name(output.name) for output in self.outputs]
        twice = {name for name in names if names.count(name) > 1}
        if twice:
            raise BadValue(f"plan {self.key}", f"{twice} is there twice", "each once is right")


@dataclass(frozen=True)
class ShippedPiece:
    key: str
    fields: dict
    plans: tuple[ShippedPlan, ...]


def cuts() -> dict[str, dict]:
    """Every shipped cut by its key."""
    found = tomllib.loads((DATA / "cuts.toml").read_text(encoding="utf-8"))
    for key, cut in found.items():
        Species(cut["species"])
        unknown = set(cut) - {"name", "species", "muscle"}
        if unknown:
            raise BadValue(f"cut {key}", f"unknown {unknown}", "name, species, muscle are right")
    return found


def pieces() -> list[ShippedPiece]:
    """Every shipped piece with its plans, in the order of the file names."""
    known = cuts()
    return [_piece(path, known) for path in sorted((DATA / "pieces").glob("*.toml"))]


def _piece(path: Path, known: dict[str, dict]) -> ShippedPiece:
    data = tomllib.loads(path.read_text(encoding="utf-8"))
    usual = data.get("usual_weight")
    weight = Weight.of(usual["value"], usual["unit"]) if usual else None
    fields = {
        "name": data["name"],
        "other_name": data.get("other_name", ""),
        "species": Species(data["species"]).value,
        "item_number": data.get("item_number", ""),
        "usual_weight": weight.value if weight else None,
        "usual_unit": weight.unit.value if weight else "lb",
        "cautions": data.get("cautions", []),
    }
    plans = tuple(
        ShippedPlan(
            plan["key"],
            plan["name"],
            plan.get("sawn", False),
            tuple(_output(output, known) for output in plan["outputs"]),
        )
        for plan in data["plans"]
    )
    return ShippedPiece(path.stem, fields, plans)


def _output(data: dict, known: dict[str, dict]) -> ShippedOutput:
    cut = data.get("cut")
    if cut is not None and cut not in known:
        raise BadValue(f"output {data['name']}", f"no cut {cut}", "a key of cuts.toml is right")
    pile = Pile(data["pile"])
    target = data.get("target")
    return ShippedOutput(
        name=data["name"],
        pile=pile,
        role=Role(data.get("role", ROLE_OF_PILE[pile])),
        share=parse_decimal(data["share"], "share") if "share" in data else None,
        cut=cut,
        target=Weight.of(target["value"], target["unit"]) if target else None,
        is_counted=data.get("counted", False),
        in_case=data.get("in_case", False),
    )
