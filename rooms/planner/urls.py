from typing import Any

from django.urls import path, register_converter

from rooms.planner.models import Kept
from rooms.planner.views import ordering, planner, saved

app_name = "planner"


class PlanKind:
    """What is kept under a name: an ad, or what to buy."""

    regex = "|".join(Kept.Kind.values)

    def to_python(self, value: Any) -> Any:
        return Kept.Kind(value)

    def to_url(self, value: Any) -> Any:
        return str(value)


register_converter(PlanKind, "plan_kind")
urlpatterns = [
    path("planner/", planner.day, name="day"),
    path("planner/<int:plan_id>/give/", planner.give, name="give"),
    path("planner/<int:plan_id>/worth/<slug:kind>/", planner.worth, name="worth"),
    path("planner/jobs/", planner.jobs, name="jobs"),
    path("planner/ways/", planner.front, name="ways_front"),
    path("planner/ways/<slug:key>/", planner.ways, name="ways"),
    path("planner/ways/<slug:key>/moved/", planner.moved, name="moved"),
    path("planner/order/", ordering.order, name="order"),
    path("planner/order/terms/", ordering.terms, name="terms"),
    path("planner/order/<int:order_id>/send/", ordering.send, name="send"),
    path("planner/order/<int:order_id>/back/", ordering.unsend, name="unsend"),
    path("planner/order/<int:order_id>/order.csv", ordering.order_file, name="order_file"),
    path("planner/week/", planner.week, name="week"),
    path("planner/buy/", saved.buy, name="buy"),
    path("counter/buy/", saved.buy_moved),
    path("counter/ad/", saved.ad, name="ad"),
    path("counter/<plan_kind:kind>/keep/", saved.keep_plan, name="keep"),
    path("counter/<plan_kind:kind>/kept/", saved.beside, name="kept"),
    path("counter/<plan_kind:kind>/kept/<int:pk>/off/", saved.take_plan_off, name="take_off"),
]
