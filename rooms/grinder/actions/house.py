"""The grinder's house rules, its seasonings, nutrition facts: changed with who and when."""

from decimal import Decimal
from typing import Any

from django.db import IntegrityError

from cutting.errors import BadValue
from cutting.grinding.nutrition import check_facts
from rooms.common.db.lengths import must_fit
from rooms.common.db.seen import Saw, check_seen, check_unchanged, is_so
from rooms.common.db.writing import write
from rooms.common.errors import BadInput, Refused
from rooms.grinder.models import GrinderRules, NutritionFacts, Seasoning
from rooms.grinder.queries.seasoning import to_core
from rooms.staff.models import Person


def change_rules(values: dict[str, Any], seen: str, by_id: int | None) -> GrinderRules:
    """The same values again change nothing. Raises Refused where somebody else changed them since the
    page was shown."""
    with write():
        row = GrinderRules.objects.select_for_update().first() or GrinderRules()
        before = {name: getattr(row, name) for name in values}
        if before == values and not row._state.adding:
            return row
        check_seen(Saw(lambda: row, seen))
        for name, value in values.items():
            setattr(row, name, value)
        _save(row, by_id)
    return row


def _save(row: Any, by_id: int | None) -> None:
    must_fit(row)
    row._history_user = Person.objects.filter(pk=by_id).first()
    try:
        with write():
            row.save()
    except IntegrityError:
        raise Refused("Somebody else has just entered it; look at the page again.") from None


def save_seasoning(values: dict[str, Any], by_id: int | None, seen: int | None = None) -> Seasoning:
    """Entered, or changed where one of the name is there; the same again changes nothing.

    `seen`: how far the page knew the list's history; Overtaken where somebody changed it since.
    """
    with write():
        name = " ".join(values["name"].split())
        row = Seasoning.objects.filter(name__iexact=name).first() or Seasoning(name=name)
        columns = {
            "share": values["share"],
            "ingredients": values["ingredients"].strip(),
            "allergens": list(values["allergens"]),
            "per": values["per"],
            "cost": values["cost"] if values["cost"] is not None else Decimal(0),
            "is_dropped": False,
        }
        if is_so(row, columns):
            return row
        check_unchanged(Seasoning, seen, columns, name__iexact=name)
        for key, own in columns.items():
            setattr(row, key, own)
        try:
            to_core(row)
        except BadValue as bad:
            raise BadInput(f"{bad}.") from bad
        _save(row, by_id)
    return row


def drop_seasoning(row_id: int, by_id: int | None) -> None:
    """It is not offered any more; batches that have it keep it."""
    with write():
        row = Seasoning.objects.filter(pk=row_id).first()
        if row is None:
            raise BadInput("Seasoning: there is no such seasoning.")
        if not row.is_dropped:
            row.is_dropped = True
            _save(row, by_id)


def save_facts(
    values: dict[str, Any], amounts: dict[str, str], by_id: int | None, seen: int | None = None
) -> NutritionFacts:
    """Facts of a product at a fat; those that were there are replaced and stay in the history.

    Raises BadInput for facts that do not fit each other or the fat; Overtaken where somebody changed them
    since the page knew the list's history as far as `seen`.
    """
    try:
        exact = {key: Decimal(amount) for key, amount in amounts.items()}
        check_facts(values["fat"], values["serving"], exact)
    except BadValue as bad:
        raise BadInput(f"{bad}.") from bad
    with write():
        own = NutritionFacts.objects.filter(product=values["product"])
        row = next((one for one in own if one.fat == values["fat"]), None)
        row = row or NutritionFacts(product=values["product"], fat=values["fat"])
        source = " ".join(values["source"].split())
        columns = {"serving": values["serving"], "amounts": amounts, "source": source}
        if is_so(row, columns):
            return row
        check_unchanged(NutritionFacts, seen, columns, product=row.product, fat=row.fat)
        for key, own in columns.items():
            setattr(row, key, own)
        _save(row, by_id)
    return row
