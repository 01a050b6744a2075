from django.urls import path, register_converter

from rooms.counter import plan_views, price_views, review_views, views
from rooms.counter.models import Kept

app_name = "counter"


class PlanKind:
    """What is kept under a name: an ad, or what to buy."""

    regex = "|".join(Kept.Kind.values)

    def to_python(self, value):
        return Kept.Kind(value)

    def to_url(self, value):
        return str(value)


register_converter(PlanKind, "plan_kind")
urlpatterns = [
    path("", views.prices, name="prices"),
    path("same-names/", views.names, name="same_names"),
    path("give-and-take/<slug:key>/", views.give_take, name="giving"),
    path("give-and-take/<slug:key>/sum/", views.give_take_sum, name="giving_sum"),
    path("give-and-take/of/<slug:piece>/", views.piece_links, name="links"),
    path("brings/<slug:piece>/", views.piece_brings, name="brings"),
    path("invoices/", review_views.invoices, name="invoices"),
    path("invoices/<uuid:pk>/", review_views.review, name="review"),
    path("invoices/<uuid:pk>/decide/", review_views.decide, name="decide"),
    path("ad/", plan_views.ad, name="ad"),
    path("buy/", plan_views.buy, name="buy"),
    path("<plan_kind:kind>/keep/", plan_views.keep_plan, name="keep"),
    path("<plan_kind:kind>/kept/", plan_views.beside, name="kept"),
    path("<plan_kind:kind>/kept/<int:pk>/off/", plan_views.take_plan_off, name="take_off"),
    path("test/<uuid:test_id>/", price_views.set_from_test, name="set_from_test"),
    path("test/<uuid:test_id>/proposal/", price_views.proposal, name="proposal"),
    path("test/<uuid:test_id>/drag/", price_views.drag, name="drag"),
]
