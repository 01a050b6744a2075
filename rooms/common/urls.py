from django.urls import path

from rooms.common.web import views

urlpatterns = [path("", views.set_theme, name="theme")]
