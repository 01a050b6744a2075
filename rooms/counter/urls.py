from django.urls import path

from rooms.counter import views

app_name = "counter"
urlpatterns = [
    path("", views.prices, name="prices"),
    path("test/<uuid:test_id>/", views.set_from_test, name="set_from_test"),
    path("test/<uuid:test_id>/proposal/", views.proposal, name="proposal"),
]
