from django.urls import path

from rooms.grinder.views import grinder

app_name = "grinder"
urlpatterns = [
    path("", grinder.front, name="front"),
    path("tub/new/", grinder.new_tub, name="new_tub"),
    path("tub/take/", grinder.take_trim, name="take_trim"),
    path("tub/<uuid:tub_id>/", grinder.tub, name="tub"),
    path("clean/", grinder.clean, name="clean"),
    path("blend/<int:blend_id>/grind/", grinder.grind, name="grind"),
    path("batch/<uuid:batch_id>/", grinder.batch, name="batch"),
    path("due/", grinder.due, name="due"),
    path("log/", grinder.log, name="log"),
]
