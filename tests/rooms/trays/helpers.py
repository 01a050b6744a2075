"""A tray set with its tare, a product with its numbers, a lot from its bag to its trays."""

import uuid
from decimal import Decimal

from cutting.grinding.judging import How
from cutting.labels.codes import check_digit
from cutting.quantities import Unit, Weight
from rooms.catalog.models import Pile
from rooms.grinder.actions.batch import CameOut, finish_batch
from rooms.grinder.actions.tubs import hand_over, judge
from rooms.grinder.models import Batch
from rooms.pricebook.models import Product, TraySize
from rooms.trays.actions.house import change_label_rules, number_product
from rooms.trays.actions.pack import Packing, measure_tare, pack_tray
from tests.conftest import person
from tests.rooms.grinder.helpers import blend, grind, tub

D = Decimal
KEY = uuid.uuid4
LOT = "L40"


def tray_set():
    """A tray set of 0.04 lb, in a shop whose place stands on its labels."""
    made = TraySize.objects.filter(is_dropped=False).first() or TraySize.objects.create(code="2")
    measure_tare(made.pk, Weight(Decimal("0.04"), Unit.LB), None)
    change_label_rules({"place": "Gull Quay"}, None)
    return made


def flat_iron(cut="beef-flat-iron"):
    """The flat iron, or another cut, with its numbers, and the shop's address."""
    product = Product.objects.get(cut__key=cut)
    gtin = "200000012301" + check_digit("200000012301")
    values = {"item": "12301", "gtin": gtin.zfill(14), "keeps_days": None, "serving": None}
    number_product(product, values, None)
    rules = {"place": "Gull Quay", "link": "https://shop.example", "store_code": "price_13"}
    change_label_rules(rules, None)
    return product


def lb(text):
    return Weight(D(text), Unit.LB)


def pack(product, size, gross, source="", key=None, **more):
    """By hand where no source is given, with a reason."""
    more.setdefault("no_lot_reason", "" if source else "the bag was gone")
    packing = Packing(key or KEY(), product.pk, size.pk, source, lb(gross), None, None, **more)
    return pack_tray(packing, person("ines").pk)


def of_bag(bag):
    return {"bags": (bag.pk,), "packed_on": bag.packed_on, "freight": bag.freight, "lot": bag.lot}


class Chain:
    """A bag of lot L40 cut, its trim ground with other trim, trays of the batch."""

    def __init__(self, client, fill, weighed, size):
        (self.bag,) = fill(("beef-tenderloin", 40, "6.17"))
        self.rows = weighed(**of_bag(self.bag))
        self.trim = next(one for one in self.rows.outputs if one.pile == Pile.LEAN)
        self.tub = tub("Chuck", pounds="13.0", lot="L7")
        self.entry = hand_over(KEY(), self.tub.pk, self.trim.pk, None)
        judge(self.tub.pk, How.TESTER, D("0.855"), None)
        blend(client, weight="12")
        grind(client, None)
        self.batch = finish_batch(Batch.objects.get().pk, CameOut(D("11.5"), D("0.3"), 4000), None)
        self.product = Product.objects.get(cut__key="beef-ground")
        self.trays = [
            pack(self.product, size, gross, f"batch:{self.batch.pk}") for gross in ("2.04", "1.54")
        ]


def written_batch(clean, **more):
    """A batch of ground beef as the log has it, without its blend. `clean`: what it was begun after."""
    return Batch.objects.create(
        name="ground beef",
        rule="ground_beef",
        species="beef",
        unit="lb",
        fat=D("0.15"),
        fat_sd=D("0.01"),
        document={},
        answer={},
        cleaned=clean,
        set_up=clean,
        celsius_in=2000,
        **more,
    )
