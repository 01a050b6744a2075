from django.urls import path

from rooms.today.views import morning

app_name = "today"
urlpatterns = [
    path("", morning.morning, name="today"),
    path("today/lines/", morning.lines, name="lines"),
]
