"""Opening a piece: a new test with its plan's piles and today's prices."""

from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from uuid import UUID

from django.conf import settings
from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from cutting.cutting_test import Piece as CorePiece
from cutting.errors import BadValue
from cutting.quantities import UnitPrice, Weight
from rooms.bench.models import CuttingTest, Output, TestBag
from rooms.bench.readings.opening import in_which_order
from rooms.catalog.models import Plan, PlanOutput
from rooms.common.errors import BadInput
from rooms.cooler.actions.bags import take_out
from rooms.pricebook.models import Price, Product

HEAVIEST = Decimal(10000)


@dataclass(frozen=True)
class Opening:
    """What is known when a piece is opened. `key` becomes the test's id."""

    key: object
    plan: Plan
    weight: Weight
    price: UnitPrice
    opened: Weight | None = None
    freight: Decimal = Decimal(0)
    discount: Decimal = Decimal(0)
    supplier: str = ""
    lot: str = ""
    packed_on: date | None = None
    bags: tuple[UUID, ...] = ()
    """Bags of the cooler that are opened for it."""


def start_test(opening: Opening, by_id: int | None, at=None) -> CuttingTest:
    """Start a test. Repeating the same opening returns the test it already started."""
    try:
        CorePiece(
            weight=opening.weight, price=opening.price, opened_weight=opening.opened,
            freight=opening.freight, discount=opening.discount,
        )  # fmt: skip
    except BadValue as bad:
        raise BadInput(str(bad)) from bad
    division = Weight.of(settings.SCALE["division"], settings.SCALE["unit"])
    with transaction.atomic():
        already = CuttingTest.objects.filter(pk=opening.key).first()
        if already is not None:
            return already
        plan = opening.plan
        last = CuttingTest.objects.aggregate(last=Max("number"))["last"] or 0
        test = CuttingTest.objects.create(
            pk=opening.key, number=last + 1, piece=plan.piece, plan=plan,
            piece_name=plan.piece.shown_name, item_number=plan.piece.item_number,
            species=plan.piece.species, plan_name=plan.name, is_sawn=plan.is_sawn,
            weight_value=opening.weight.value, weight_unit=opening.weight.unit.value,
            opened_value=opening.opened.value if opening.opened else None,
            opened_unit=opening.opened.unit.value if opening.opened else "",
            price_amount=opening.price.amount, price_per=opening.price.per.value,
            freight=opening.freight, discount=opening.discount,
            division_value=division.value, division_unit=division.unit.value,
            labour_rate=Decimal(settings.SHOP["labour_rate"]),
            supplier=opening.supplier, lot=opening.lot, packed_on=opening.packed_on,
            cutter_id=by_id, started_at=at or timezone.now(),
        )  # fmt: skip
        Output.objects.bulk_create(_piles(test, plan))
        if opening.bags:
            words = f"opened for test {test.number}; {in_which_order(opening.bags)}"
            taken = take_out(list(opening.bags), words, by_id, at)
            TestBag.objects.bulk_create([TestBag(test=test, bag=bag) for bag in taken])
    return test


def _piles(test: CuttingTest, plan: Plan) -> list[Output]:
    """The plan's piles with the prices that hold today."""
    planned = list(PlanOutput.objects.filter(plan=plan).order_by("position"))
    products = {
        product.cut_id: product
        for product in Product.objects.filter(cut__in=[p.cut_id for p in planned if p.cut_id])
    }
    current = {
        price.product_id: price.amount
        for price in Price.objects.filter(product__in=products.values()).current()
    }
    piles = []
    for output in planned:
        product = products.get(output.cut_id)
        piles.append(
            Output(
                test=test, position=output.position, name=output.name, pile=output.pile,
                role=output.role, cut_id=output.cut_id, share=output.share,
                target_value=output.target_value, target_unit=output.target_unit,
                is_counted=output.is_counted, in_case=output.in_case,
                price_per=product.per if product else "lb",
                retail=current.get(product.pk) if product else None,
                credit=product.transfer if product else None,
                replacement=product.ready_cut if product else None,
            )
        )  # fmt: skip
    return piles
