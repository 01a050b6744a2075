from django.urls import path

from rooms.trays.views import marking, pack, tray

app_name = "trays"
urlpatterns = [
    path("", pack.front, name="front"),
    path("queue/", pack.waiting, name="queue"),
    path("queue/send/", pack.send_waiting, name="send"),
    path("queue/drop/", pack.drop, name="drop"),
    path("tags/<int:number>/", pack.tags, name="tags"),
    path("of/<uuid:test_id>/", pack.of_test, name="of_test"),
    path("card/<int:product_id>/", pack.card, name="card"),
    path("case/", pack.case, name="case"),
    path("due/", pack.due, name="due"),
    path("tares/", pack.tare_page, name="tares"),
    path("marking/", marking.front, name="marking"),
    path("shrink/<int:product_id>/", marking.shrink, name="shrink"),
    path("labels/", tray.rules_page, name="rules"),
    path("<uuid:tray_id>/", tray.tray, name="tray"),
    path("<uuid:tray_id>/label/<slug:kind>/", tray.label_file, name="label"),
]
