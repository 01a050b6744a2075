"""Saving the prices a manager decided on, from one test."""

from django.db import transaction

from cutting.quantities import Unit, UnitPrice, round_half_up
from rooms.bench.models import Output
from rooms.bench.rows import TestRows
from rooms.common.errors import BadInput, Refused
from rooms.counter.readings import PriceRow, PriceView, Wish, price_view
from rooms.pricebook.actions import NewPrice, Origin, set_prices


def save_prices(rows: TestRows, wish: Wish, by_id: int | None, at=None) -> PriceView:
    """Make the proposed and locked prices the products' current ones, dated, with this test.

    The sheet shows them from now on; a pile that is no product has its price on the sheet only.
    Raises BadInput when a typed value is wrong, Refused when the proposals are no longer those
    that the page showed. Saving twice changes nothing.
    """
    with transaction.atomic():
        if rows.test.is_open:
            raise Refused("Prices: the test is still open; finish it first.")
        view = price_view(rows, wish)
        if view.has_faults:
            raise BadInput("Prices: nothing was saved; correct the values marked below.")
        ready = [row for row in view.table if row.price is not None]
        if not ready:
            raise BadInput("Prices: there is no price to save; choose a school that has costs.")
        moved = [row.name for row in ready if wish.shown.get(row.id) != f"{row.price:f}"]
        if moved:
            raise Refused(
                f"Prices: {', '.join(moved)} changed since this page was shown, so nothing was "
                "saved. Look at the new proposals, then save."
            )
        set_prices(
            [
                NewPrice(row.product, row.price, round_half_up(row.cost, 4))
                for row in ready
                if row.product
            ],
            Origin(by_id, rows.test.pk, rows.test.number, view.school.value),
            at,
        )
        outputs = {output.pk: output for output in rows.outputs}
        for row in ready:
            _show_on_sheet(outputs[row.id], row)
        Output.objects.bulk_update([outputs[row.id] for row in ready], ["retail", "share_price"])
    return view


def _show_on_sheet(output: Output, row: PriceRow) -> None:
    """The price in the unit of the output's other prices; its share price is set only once."""
    price = row.price
    if row.per != output.price_per:
        price = round_half_up(UnitPrice(price, Unit(row.per)).to(Unit(output.price_per)), 4)
    if output.share_price is None:
        output.share_price = price if output.retail is None else output.retail
    output.retail = price
