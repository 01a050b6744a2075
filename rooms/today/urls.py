from django.urls import path

from rooms.today import views

app_name = "today"
urlpatterns = [
    path("", views.morning, name="today"),
    path("today/lines/", views.lines, name="lines"),
    path("wanted/", views.wanted_list, name="wanted"),
]
