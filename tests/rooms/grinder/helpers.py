"""Tubs, blends and batches as the pages make them."""

import uuid
from decimal import Decimal

from django.urls import reverse
from django.utils import timezone

from cutting.grinding.judging import How
from cutting.quantities import Unit, Weight
from rooms.grinder.actions.tubs import NewTub, judge, put_in, start_tub
from rooms.grinder.models import BlendPlan
from rooms.pricebook.models import Product

D = Decimal
KEY = uuid.uuid4


def tub(name="Chuck", kind="lean", species="beef", pounds="", lean="0.80", primal="", lot="L1"):
    made = start_tub(NewTub(KEY(), name, species, kind, primal), None)
    if pounds:
        lots = [{"lot": lot, "supplier": "Low Holm Provisions"}]
        put_in(KEY(), made.pk, Weight(D(pounds), Unit.LB), lots, timezone.localdate(), None)
    judge(made.pk, How.TESTER, D(lean), None)
    return made


def blend(client, weight="12", lean="85", **more):
    product = Product.objects.get(cut__key="beef-ground")
    sent = {"b0-key": KEY(), "b0-product": product.pk, "b0-rule": "ground_beef"}
    sent |= {"b0-weight": weight, "b0-lean": lean, "b1-key": KEY(), "b2-key": KEY()}
    return client.post(reverse("grinder:front"), sent | more)


def grind(client, answer, celsius="2.5", number="0", key=None):
    plan = BlendPlan.objects.first()
    sent = {"key": key or KEY(), "number": number, "celsius": celsius}
    return client.post(reverse("grinder:grind", args=[plan.pk]), sent)


def to_batch(client, batch, what, **more):
    address = reverse("grinder:batch", args=[batch.pk])
    return client.post(address, {"what": what, "key": KEY(), **more})
