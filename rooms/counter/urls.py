from typing import Any

from django.urls import path, register_converter

from rooms.counter.models import Kept
from rooms.counter.views import lists, plans, prices, reviews

app_name = "counter"


class PlanKind:
    """What is kept under a name: an ad, or what to buy."""

    regex = "|".join(Kept.Kind.values)

    def to_python(self, value: Any) -> Any:
        return Kept.Kind(value)

    def to_url(self, value: Any) -> Any:
        return str(value)


register_converter(PlanKind, "plan_kind")
urlpatterns = [
    path("", lists.prices, name="prices"),
    path("same-names/", lists.names, name="same_names"),
    path("give-and-take/<slug:key>/", lists.give_take, name="giving"),
    path("give-and-take/<slug:key>/sum/", lists.give_take_sum, name="giving_sum"),
    path("give-and-take/of/<slug:piece>/", lists.piece_links, name="links"),
    path("brings/<slug:piece>/", lists.piece_brings, name="brings"),
    path("invoices/", reviews.invoices, name="invoices"),
    path("invoices/<uuid:pk>/", reviews.review, name="review"),
    path("invoices/<uuid:pk>/decide/", reviews.decide, name="decide"),
    path("ad/", plans.ad, name="ad"),
    path("buy/", plans.buy_moved),
    path("<plan_kind:kind>/keep/", plans.keep_plan, name="keep"),
    path("<plan_kind:kind>/kept/", plans.beside, name="kept"),
    path("<plan_kind:kind>/kept/<int:pk>/off/", plans.take_plan_off, name="take_off"),
    path("test/<uuid:test_id>/", prices.set_from_test, name="set_from_test"),
    path("test/<uuid:test_id>/proposal/", prices.proposal, name="proposal"),
    path("test/<uuid:test_id>/drag/", prices.drag, name="drag"),
]
