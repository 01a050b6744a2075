"""A tray set with its tare, a product with its numbers."""

from decimal import Decimal

from cutting.labels.codes import check_digit
from cutting.quantities import Unit, Weight
from rooms.pricebook.models import Product, TraySize
from rooms.trays.actions.house import change_label_rules, number_product
from rooms.trays.actions.pack import measure_tare


def tray_set():
    """A tray set of 0.04 lb."""
    made = TraySize.objects.filter(is_dropped=False).first() or TraySize.objects.create(code="2")
    measure_tare(made.pk, Weight(Decimal("0.04"), Unit.LB), None)
    return made


def flat_iron():
    """The flat iron with its numbers, and the shop's address."""
    product = Product.objects.get(cut__key="beef-flat-iron")
    gtin = "200000012301" + check_digit("200000012301")
    values = {"item": "12301", "gtin": gtin.zfill(14), "keeps_days": None, "serving": None}
    number_product(product, values, None)
    rules = {"place": "Gull Quay", "link": "https://shop.example", "store_code": "price_13"}
    change_label_rules(rules, None)
    return product
