from django.urls import path

from rooms.trays.views import marking, pack, recall, tray, way

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
    path("way/", way.front, name="way_front"),
    path("way/lot/", way.of_lot, name="way_of_lot"),
    path("way/<slug:kind>/<uuid:pk>/", way.of, name="way"),
    path("way/<slug:kind>/<uuid:pk>/line/", way.line, name="line"),
    path("hold/", recall.ask, name="ask_hold"),
    path("hold/now/", recall.hold, name="hold"),
    path("drill/", recall.drill, name="drill"),
    path("recall/<int:recall_id>/", recall.recall, name="recall"),
    path("recall/<int:recall_id>/let-go/", recall.let_go, name="let_go"),
    path("recall/<int:recall_id>/notice/", recall.notice, name="notice"),
    path("marking/", marking.front, name="marking"),
    path("shrink/<int:product_id>/", marking.shrink, name="shrink"),
    path("labels/", tray.rules_page, name="rules"),
    path("<uuid:tray_id>/", tray.tray, name="tray"),
    path("<uuid:tray_id>/label/<slug:kind>/", tray.label_file, name="label"),
]
