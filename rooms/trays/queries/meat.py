"""What the meat on trays is, as the core's `Meat`; how much of a pile and of a tray is in trays."""

from collections import defaultdict
from collections.abc import Collection, Iterable
from decimal import Decimal

from cutting.labels.tray_life import Life
from cutting.meat import Meat, Origin
from cutting.quantities import ZERO, Unit, Weight, working
from rooms.trays.models import Tray

LEAN_MARK = " % lean, "


def grams_in_trays(outputs: Collection[int]) -> dict[int, Decimal]:
    """Return what of each of these piles was packed, in grams, whatever became of it: one query."""
    found: dict[int, Decimal] = defaultdict(lambda: ZERO)
    rows = Tray.objects.standing().filter(output__in=outputs).order_by()
    with working():
        for output, net, unit in rows.values_list("output", "net", "unit"):
            found[output] += Weight(net, Unit(unit)).to(Unit.G)
    return found


def left_on_tray(tray: Tray, again: Iterable[Tray] | None = None) -> Weight:
    """Return what lies on a tray: its net less what was packed of it again. One query, none where `again`
    is loaded."""
    packed = tray.again.standing() if again is None else again
    unit = Unit(tray.unit)
    with working():
        gone = sum((one.weight.to(unit) for one in packed if one.state is not Life.UNDONE), ZERO)
        return Weight(tray.net - gone, unit)


def meat_of_tray(tray: Tray) -> Meat:
    """Return what a tray is, as its label told it. Its product with cut and muscle is loaded."""
    document, cut = tray.document, tray.product.cut
    return Meat(
        species=document["product"]["species"],
        cut=cut.key,
        muscle=cut.muscle.key if cut.muscle is not None else "",
        product=str(tray.product_id),
        is_ground=cut.is_ground,
        is_tenderized=bool(document.get("tenderized")),
        is_cubed=bool(document.get("cubed", cut.is_cubed)),
        was_frozen=bool(document.get("frozen_before")),
        ingredients=tuple(document.get("ingredients", ())),
        allergens=tuple(document.get("allergens", ())) or _allergens_told(document),
        lean=str(document.get("lean", "")) or _lean_told(document["product"]["name"]),
        origins=_origins(document),
        since=tray.packed_on,
        ends=(tray.sell_by,),
    )


def _allergens_told(document: dict[str, list[str]]) -> tuple[str, ...]:
    """Of a label made before allergens stood by themselves: "Contains soy, wheat."."""
    told = (one for one in document.get("kept_facts", ()) if one.startswith("Contains "))
    return tuple(
        name for line in told for name in line.removeprefix("Contains ").rstrip(".").split(", ")
    )


def _lean_told(name: str) -> str:
    """Of a label made before the lean stood by itself: "Ground beef, 85 % lean, 15 % fat"."""
    head, mark, tail = name.rpartition(LEAN_MARK)
    return f"{head.rpartition(', ')[2]}{mark}{tail}" if mark else ""


def _origins(document: dict[str, object]) -> tuple[Origin, ...]:
    kept = document.get("origins")
    if isinstance(kept, list):
        return tuple(Origin(*one) for one in kept)
    country = document.get("country")
    return (Origin(country=str(country)),) if country else ()
