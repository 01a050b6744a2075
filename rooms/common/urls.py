from django.urls import path

from rooms.common import views

urlpatterns = [path("", views.set_theme, name="theme")]
