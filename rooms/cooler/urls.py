from django.urls import path

from rooms.cooler.views import bags, receiving, temperature

app_name = "cooler"
urlpatterns = [
    path("", bags.cooler, name="cooler"),
    path("calendar/", bags.calendar, name="calendar"),
    path("windows/", bags.window_list, name="windows"),
    path("windows/<slug:key>/", bags.window, name="window"),
    path("temperature/", temperature.temperature, name="temperature"),
    path("temperature/now/", temperature.now_line, name="now"),
    path("readings/", temperature.readings, name="readings"),
    path("receive/", receiving.receive, name="receive"),
    path("receive/<uuid:delivery_id>/", receiving.delivery_page, name="delivery"),
    path("receive/<uuid:delivery_id>/bags/", receiving.add, name="add"),
    path("receive/<uuid:delivery_id>/close/", receiving.close, name="close"),
    path("receive/<uuid:delivery_id>/price/", receiving.price, name="price"),
    path("receive/<uuid:delivery_id>/code/", receiving.code, name="code"),
    path("receive/<uuid:delivery_id>/claim/", receiving.claim, name="claim"),
    path("bag/<uuid:bag_id>/", bags.bag_page, name="bag"),
    path("bag/<uuid:bag_id>/seal/", bags.seal, name="seal"),
    path("bag/<uuid:bag_id>/sealed/", bags.sealed, name="sealed"),
    path("bag/<uuid:bag_id>/quality/", bags.quality, name="quality"),
    path("bag/<uuid:bag_id>/correct/", bags.correct, name="correct"),
    path("bag/<uuid:bag_id>/leave/", bags.leaves, name="leave"),
    path("bag/<uuid:bag_id>/weigh/", bags.weigh, name="weigh"),
]
