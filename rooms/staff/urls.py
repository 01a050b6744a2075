from django.urls import path

from rooms.staff import views

app_name = "staff"
urlpatterns = [path("", views.who, name="who")]
