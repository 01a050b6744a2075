from django.urls import path

from rooms.pricing.views import lists, prices, reviews

app_name = "pricing"
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
    path("test/<uuid:test_id>/", prices.set_from_test, name="set_from_test"),
    path("test/<uuid:test_id>/proposal/", prices.proposal, name="proposal"),
    path("test/<uuid:test_id>/drag/", prices.drag, name="drag"),
]
