"""Saving the prices a manager decided on, from one test and its fellows."""

import uuid
from dataclasses import dataclass, replace
from datetime import date
from typing import Any

from django.utils import timezone

from cutting.quantities import Unit, UnitPrice, storable, storable_money
from formats.writing import write_document
from rooms.bench.models import Output
from rooms.bench.queries.rows import TestRows
from rooms.catalog.models import Cut
from rooms.common.db.writing import write
from rooms.common.errors import BadInput, Refused
from rooms.pricebook.actions.prices import NewPrice, Origin, differ, set_prices
from rooms.pricebook.models import Basis, Price, Version
from rooms.pricing.queries.building import PriceView, price_view
from rooms.pricing.queries.grounds import shaken, with_grounds
from rooms.pricing.queries.lines import PriceRow
from rooms.pricing.queries.wishes import Wish
from rooms.shop.queries.current import house

LONGEST_WHY = 200


@dataclass(frozen=True)
class Saving:
    """Who saves, from which day on, and why. `seen`: the newest price of the book that the page knew."""

    by_id: int | None
    effective_on: date | None = None
    why: str = ""
    seen: int | None = None


def save_prices(rows: TestRows, wish: Wish, saving: Saving, at: Any = None) -> PriceView:
    """Make the proposed and locked prices the products' own, dated, with what they rest on.

    The sheet shows them from the day they hold; a pile that is no product has its price on the
    sheet only, and at once.
    Raises BadInput when a typed value is wrong, Refused when the proposals are no longer those
    that the page showed, or somebody set one of the prices since. Saving twice changes nothing.
    """
    with write():
        if rows.test.is_open:
            raise Refused("Prices: the test is still open; finish it first.")
        view = price_view(rows, wish)
        if view.has_faults:
            raise BadInput("Prices: nothing was saved; correct the values marked below.")
        if len(saving.why) > LONGEST_WHY:
            raise BadInput(f"Why: {len(saving.why)} characters; at most {LONGEST_WHY} are right.")
        ready = [row for row in view.table if row.price is not None]
        if not ready:
            raise BadInput("Prices: there is no price to save; choose a school that has costs.")
        moved = [
            row.name
            for row in ready
            if wish.shown.get(row.id) != f"{row.price:f}" and not wish.moved(row.id)
        ]
        if moved:
            raise Refused(
                f"Prices: {', '.join(moved)} changed since this page was shown, so nothing was "
                "saved. Look at the new proposals, then save."
            )
        _save(view, ready, saving, at)
        _keep_steps(view, ready)
        outputs = {output.pk: output for output in rows.outputs}
        ours = [row for row in ready if row.id in outputs]
        for row in ours:
            _keep_on_sheet(outputs[row.id], row)
        Output.objects.bulk_update([outputs[row.id] for row in ours], ["retail", "share_price"])
    return view


def _save(view: PriceView, ready: list[PriceRow], saving: Saving, at: Any) -> None:
    test = view.rows.test
    paid = UnitPrice(test.price_amount, Unit(test.price_per))
    sold = [(row.product, row.price, row.cost) for row in ready if row.product and row.price]
    products = [product.pk for product, _, _ in sold]
    standing = with_grounds(Price.objects.current(saving.effective_on, products=products))
    held = {price.pk: price.product_id for price in standing}
    moved = {held[pk] for pk in shaken(standing)}
    wanted = [
        NewPrice(
            product,
            price,
            None if cost is None else storable_money(cost),
            paid,
            renews=product.pk in moved,
        )
        for product, price, cost in sold
    ]
    origin = Origin(
        saving.by_id,
        test.pk,
        test.number,
        view.school.value,
        Version.Kind.TEST,
        saving.why,
        saving.effective_on,
        seen=saving.seen,
    )
    if differ(wanted, origin):  # else nothing would rest on a basis
        set_prices(wanted, replace(origin, basis_id=_basis(view, at).pk), at)


def _keep_steps(view: PriceView, ready: list[PriceRow]) -> None:
    """A price with a value-adding step in it is one of a product that gets this step: its label, its card
    and its trace tell it from now on. What a product no longer gets is taken off on its own page, never
    by a price: a statement of safety does not go away beside a sum."""
    known = {adder.pk for adder in view.adders}
    for row in ready:
        if row.product is not None:
            has = {adder.pk for adder in row.product.adders.all()}
            row.product.adders.add(*((row.adders & known) - has))


def _basis(view: PriceView, at: Any) -> Basis:
    """What these prices rest on, kept as it is today."""
    cuts = Cut.objects.in_bulk({o.cut_id for o in view.resting.kept} - {None})
    keys = {
        core.name: {"cut": cuts[output.cut_id].key}
        for output, core in zip(view.resting.kept, view.basis.outputs, strict=True)
        if output.cut_id in cuts
    }
    document = write_document(view.basis, uuid.uuid4(), house().currency, keys)
    test = view.rows.test
    return Basis.objects.create(
        piece_id=test.piece_id,
        plan_name=test.plan_name,
        document=document,
        tests=[[str(pk), number] for pk, number in view.resting.tests],
        made_at=at or timezone.now(),
    )


def _keep_on_sheet(output: Output, row: PriceRow) -> None:
    """The share price, set only once; and the price itself of a pile that is no product."""
    if row.price is None:
        return
    price = storable(UnitPrice(row.price, Unit(row.per)), Unit(output.price_per)).amount
    if output.share_price is None:
        output.share_price = price if output.retail is None else output.retail
    if row.product is None:
        output.retail = price
