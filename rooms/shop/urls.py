from django.urls import path

from rooms.shop.views import settings

app_name = "shop"
urlpatterns = [
    path("", settings.overview, name="settings"),
    path("walk/", settings.walk, name="walk"),
    path("history/", settings.history, name="history"),
    path("first-day/over/", settings.over, name="over"),
    path("first-day/<slug:key>/", settings.step, name="step"),
    path("<slug:key>/", settings.section, name="section"),
]
