from django.urls import path

from rooms.grinder.views import batch, grinder, log, rules, tub

app_name = "grinder"
urlpatterns = [
    path("", grinder.front, name="front"),
    path("tub/new/", grinder.new_tub, name="new_tub"),
    path("tub/take/", tub.take_trim, name="take_trim"),
    path("tub/waiting/", tub.trim_waiting, name="waiting"),
    path("tub/of/<uuid:test_id>/", tub.trim_of, name="trim_of"),
    path("tub/<uuid:tub_id>/", tub.tub, name="tub"),
    path("worth/", tub.trim_value, name="trim_value"),
    path("clean/", grinder.clean, name="clean"),
    path("blend/<int:blend_id>/grind/", grinder.grind, name="grind"),
    path("batch/<uuid:batch_id>/", batch.batch, name="batch"),
    path("due/", log.due, name="due"),
    path("log/", log.log, name="log"),
    path("log/print/", log.records_page, name="records"),
    path("rules/", rules.rules_page, name="rules"),
]
