"""Whole pieces of a test that become bags of the cooler, and a bag put back in part."""

from dataclasses import dataclass
from uuid import UUID

from django.utils import timezone

from cutting.cooler.receiving import part_of
from cutting.quantities import Unit, UnitPrice, Weight, storable, working
from cutting.sheet.cutting_test import still_on_block
from rooms.bench.actions.layout import lay_again
from rooms.bench.actions.record import add_note
from rooms.bench.actions.revision import touch
from rooms.bench.models import CuttingTest, Output, PieceBag, Weighing
from rooms.bench.queries.its_bags import bag_of
from rooms.bench.queries.meat import cut_on
from rooms.bench.queries.piece_bags import cost_of_pile, goes_to_case, holds
from rooms.bench.queries.pile_left import left_on_pile
from rooms.bench.queries.rows import TestRows, load_known, must_be_open, must_load
from rooms.catalog.models import Piece
from rooms.common.db.writing import Sent, kept_by, write
from rooms.common.errors import BadInput, Refused
from rooms.cooler.actions.events import note_event
from rooms.cooler.actions.parts import CutPiece, Remainder, keep_piece, repack
from rooms.cooler.models import Bag
from rooms.cooler.queries.one_bag import stands_in_cooler
from wording.pencil import money


@dataclass(frozen=True)
class Keeping:
    """What the page sent. `key` becomes the bag's id; `bag`: the one that it was cut from, where several
    lots were opened."""

    key: UUID
    weighing: int
    piece: str
    is_sealed: bool
    bag: UUID | None = None


def into_cooler(test_id: UUID, keeping: Keeping, by_id: int | None) -> Bag:
    """Put one weighing of a finished test into the cooler as a bag, at what it cost on the sheet. The same key
    again changes nothing.

    Raises BadInput for a weighing or a piece that is not there; Refused for an open test, for what is packed,
    ground or in the cooler already, for waste, and for a lot that is held.
    """
    values = {
        "test": test_id,
        "weighing": keeping.weighing,
        "piece": keeping.piece,
        "sealed": keeping.is_sealed,
    } | ({"bag": keeping.bag} if keeping.bag else {})
    sent = Sent(keeping.key, "piece into the cooler", keeping.piece, values)
    with write(key=sent, recorded=kept_by(Bag, keeping.key, by="pk")) as door:
        if door.first is not None:
            return door.first
        rows = must_load(test_id)
        weighing, output = _on_sheet(rows, keeping.weighing)
        piece = Piece.objects.filter(key=keeping.piece, species=rows.test.species).first()
        if piece is None:
            raise BadInput(f"Piece: “{keeping.piece[:60]}”; one of those shown is right.")
        cost = cost_of_pile(rows, output)
        if cost is None:
            raise Refused(f"{output}: the sheet gives it no cost, so it cannot be a bag.")
        cut = CutPiece(
            keeping.key,
            piece,
            weighing.reading.weight,
            cost,
            cut_on(rows, output) or timezone.localdate(),
            keeping.is_sealed,
            f"test {rows.test.number}",
        )
        bag = keep_piece(bag_of(rows.test, keeping.bag).pk, cut, by_id)
        if weighing.portions:
            bag.pieces_inside = weighing.portions
            bag.save(update_fields=["pieces_inside"])
        PieceBag.objects.create(
            test=rows.test,
            output=output,
            weighing=weighing,
            bag=bag,
            at=timezone.now(),
            by_id=by_id,
        )
        touch(rows.test)
    return bag


def _on_sheet(rows: TestRows, weighing_id: int) -> tuple[Weighing, Output]:
    """A weighing that may go into the cooler, and its pile."""
    test = rows.test
    if test.is_open or test.voided_at is not None:
        raise Refused("Finish the test first: a piece goes into the cooler at what it cost.")
    if test.imported_at is not None:
        raise Refused("This test was taken in from a file: its meat is not here.")
    weighing = next((one for one in rows.standing if one.pk == weighing_id), None)
    if weighing is None:
        raise BadInput("Weighing: it is not on the sheet any more; look at it again.")
    if PieceBag.objects.standing().filter(weighing=weighing).exists():
        raise Refused(f"{weighing}: it is in the cooler already.")
    output = next(one for one in rows.outputs if one.pk == weighing.output_id)
    if not goes_to_case(output):
        raise Refused(f"{output}: it is waste or a by-product, not a whole piece.")
    left = left_on_pile(rows, output)
    if not holds(left, weighing):
        raise Refused(
            f"{output}: {weighing} do not lie there any more; {max(left.value, 0):.2f} {left.unit} do. The rest"
            " is packed, in a tub or in the cooler."
        )
    return weighing, output


def out_of_cooler(bag_id: UUID, by_id: int | None) -> PieceBag:
    """Take a piece back onto the sheet that it came off, as if it had not been put into the cooler. A repeat
    changes nothing. Refused once the bag was opened, sent back or thrown away."""
    with write():
        row = PieceBag.objects.select_related("bag", "test").filter(bag=bag_id).first()
        if row is None:
            raise BadInput("Bag: it did not come off a test of ours.")
        if row.undone_at is not None:
            return row
        bag = row.bag
        stands_in_cooler(bag)
        now = timezone.now()
        row.undone_at, row.undone_by_id = now, by_id
        row.save(update_fields=["undone_at", "undone_by"])
        bag.state, bag.left_at = Bag.State.UNDONE, now
        bag.save(update_fields=["state", "left_at"])
        note_event(bag, "undone", f"taken back to the sheet of test {row.test.number}", by_id)
        touch(row.test)
    return row


def check_left_out(weighing: Weighing) -> None:
    """Raise Refused where a weighing that a correction leaves out is in the cooler as a bag."""
    if PieceBag.objects.standing().filter(weighing=weighing).exists():
        raise Refused(
            f"Weighing {weighing}: it is in the cooler as a bag. Take the bag back to the sheet first."
        )


def weighs_now(before: Weighing, now: Weighing) -> None:
    """Point the bag of a corrected weighing at the one that counts."""
    PieceBag.objects.standing().filter(weighing=before).update(weighing=now)


def follow_sheet(rows: TestRows, by_id: int | None) -> None:
    """Give the bags that came off a test the weights and costs of its sheet as it was corrected; what was cut
    of them since keeps its own figures, and its sheet says that they moved. One query without bags.

    Called inside the transaction of the correction.
    """
    outputs = {output.pk: output for output in rows.outputs}
    kept = PieceBag.objects.standing().filter(test=rows.test).select_related("bag", "weighing")
    for row in kept:
        bag, now = row.bag, row.weighing.reading.weight
        was = UnitPrice(bag.price_amount, bag.line.price.per) if bag.line else None
        cost = cost_of_pile(rows, outputs[row.output_id]) or was
        said = []
        if (bag.weight_value, bag.weight_unit) != (now.value, now.unit.value):
            said.append(f"{now}, was {bag.weight}")
            bag.weight_value, bag.weight_unit = now.value, now.unit.value
        if cost is not None and cost != was:
            said.append(
                f"{money(cost.amount)} per {cost.per}"
                + (f", was {money(was.amount)}" if was else "")
            )
            bag.price_amount, bag.price_per = cost.amount, cost.per.value
        if said:
            bag.save(update_fields=["weight_value", "weight_unit", "price_amount", "price_per"])
            words = f"test {rows.test.number} was corrected: {'; '.join(said)}"
            note_event(bag, "corrected", words[:300], by_id)


def put_back(
    test_id: UUID, key: UUID, weight: Weight, by_id: int | None, bag_id: UUID | None = None
) -> CuttingTest:
    """Take a weight off an open test and put it into the cooler at the same price.

    Its share of freight goes with it, so the test pays only for what it keeps. No more goes back
    than still lies on the block. `bag_id`: of which of its bags; WhichBag where their lots differ and none is
    said. The same key twice changes nothing.
    """
    values = {"test": test_id, "weight": weight} | ({"bag": bag_id} if bag_id else {})
    sent = Sent(key, "put back", f"{weight} back", values)
    with write(key=sent, recorded=kept_by(Bag, key, by="pk")) as door:
        rows = must_load(test_id)
        test = rows.test
        if door.first is not None:
            return test
        must_be_open(test, "nothing was put back")
        bag = bag_of(test, bag_id)
        own = storable(weight, Unit(test.weight_unit))
        value = own.value
        left = still_on_block(rows.weighed)
        if not (0 < value <= left and value < test.weight_value):
            raise BadInput(
                f"Weight: {weight}; above 0 and at most the"
                f" {max(left, 0):.2f} {test.weight_unit} still on the block is right"
                f"{'' if left < test.weight_value else ', and not all of it'}."
            )
        with working():
            freight = part_of(test.freight, value, test.weight_value)
            discount = part_of(test.discount, value, test.weight_value)
            test.weight_value -= value
            test.freight -= freight
            test.discount -= discount
            if test.opened_value is not None:
                test.opened_value -= storable(weight, Unit(test.opened_unit)).value
        test.save(update_fields=["weight_value", "freight", "discount", "opened_value"])
        rest = Remainder(key, own, timezone.localdate(), freight, discount)
        repack(bag.pk, rest, by_id)
        add_note(test, str(key), f"{weight} packed again, put back.", by_id)
    lay_again(load_known(test_id))
    return test
