"""What the label of a batch may claim, by what the tester found since."""

from decimal import ROUND_CEILING, Decimal

from django.utils import timezone

from cutting.grinding.blend import Kind
from cutting.quantities import HUNDRED, ONE, ZERO, Unit, Weight, round_half_up, working
from rooms.grinder.models import Batch, GrinderRules
from rooms.grinder.queries.house import house_rules, most_fat
from rooms.grinder.queries.packed import stated_fat
from rooms.grinder.queries.tubs import tubs_now
from wording.pencil import percent


def tested_fat(batch: Batch) -> Decimal | None:
    """Return the most fat that a test of a batch found and that was not taken back; None without one."""
    return max(batch.tested.standing().values_list("fat", flat=True), default=None)


def claim_refused(batch: Batch, stated: Decimal, rules: GrinderRules) -> str:
    """Return why a label may not state this fat; empty where it may."""
    tested = tested_fat(batch)
    with working():
        if tested is not None and tested > stated + rules.allowance:
            return (
                f"{batch} tested {percent(tested)} fat; a label of {percent(ONE - stated)} lean allows"
                f" {percent(stated + rules.allowance)}"
            )
        most = most_fat(batch.species, batch.name, rules)
        if most is not None and stated > most:
            return f"{percent(stated)} is more than {batch.name} may have; at most {percent(most)} is right"
        if not ZERO <= stated <= ONE:
            return f"{percent(stated)}; 0 to 100 % is right"
    return ""


def over_its_label(batch: Batch) -> str:
    """Return why nothing of a batch is labeled as it is: the tester found more fat than its label allows.
    Empty where it may be. A batch with a seasoning states no lean."""
    if batch.seasoning_id is not None and batch.stated is None:
        return ""
    tested, rules = tested_fat(batch), house_rules()
    with working():
        if tested is None or tested <= stated_fat(batch) + rules.allowance:
            return ""
    why = claim_refused(batch, stated_fat(batch), rules)
    return f"{why}. Relabel it, or mix leaner meat in and grind again"


def right_label(batch: Batch) -> Decimal | None:
    """Return the fat that its label could state instead, up to the next whole percent; None where the name
    does not allow it."""
    tested = tested_fat(batch)
    if tested is None:
        return None
    with working():
        stated = (tested * HUNDRED).to_integral_value(ROUND_CEILING) / HUNDRED
    return None if claim_refused(batch, stated, house_rules()) else stated


def mend_words(batch: Batch) -> str:
    """Return what leaner meat would bring a batch back to its label: "3.4 lb of Knuckle"; empty where no tub
    can."""
    tested, stated = tested_fat(batch), stated_fat(batch)
    if tested is None or batch.got is None:
        return ""
    leaner = [
        one
        for one in tubs_now(timezone.localdate())
        if one.tub.species == batch.species
        and one.tub.kind != Kind.HARD_FAT
        and one.lean is not None
        and ONE - one.lean.share < stated
        and not one.held
        and not one.past
    ]
    if not leaner:
        return ""
    best = max(leaner, key=lambda one: one.lean.share if one.lean else ZERO)
    with working():
        fat = ONE - best.lean.share if best.lean else stated
        more = batch.got * (tested - stated) / (stated - fat)
        left = Weight(best.left, Unit(best.tub.unit)).to(Unit(batch.unit))
    if more > left:
        return ""
    return f"{round_half_up(more, 1):f} {batch.unit} of {best.tub.name}"
