from django.urls import path

from rooms.cooler import receive_views, temperature_views, views

app_name = "cooler"
urlpatterns = [
    path("", views.cooler, name="cooler"),
    path("calendar/", views.calendar, name="calendar"),
    path("windows/", views.window_list, name="windows"),
    path("windows/<slug:key>/", views.window, name="window"),
    path("temperature/", temperature_views.temperature, name="temperature"),
    path("temperature/now/", temperature_views.now_line, name="now"),
    path("readings/", temperature_views.readings, name="readings"),
    path("receive/", receive_views.receive, name="receive"),
    path("receive/<uuid:delivery_id>/", receive_views.delivery_page, name="delivery"),
    path("receive/<uuid:delivery_id>/bags/", receive_views.add, name="add"),
    path("receive/<uuid:delivery_id>/close/", receive_views.close, name="close"),
    path("receive/<uuid:delivery_id>/price/", receive_views.price, name="price"),
    path("receive/<uuid:delivery_id>/code/", receive_views.code, name="code"),
    path("receive/<uuid:delivery_id>/claim/", receive_views.claim, name="claim"),
    path("bag/<uuid:bag_id>/", views.bag_page, name="bag"),
    path("bag/<uuid:bag_id>/seal/", views.seal, name="seal"),
    path("bag/<uuid:bag_id>/origin/", views.origin, name="origin"),
    path("bag/<uuid:bag_id>/leave/", views.leaves, name="leave"),
    path("bag/<uuid:bag_id>/weigh/", views.weigh, name="weigh"),
]
