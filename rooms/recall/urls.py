from django.urls import path

from rooms.recall.views import recalls, trace

app_name = "recall"
urlpatterns = [
    path("way/", trace.front, name="trace_front"),
    path("way/lot/", trace.of_lot, name="trace_lot"),
    path("way/<slug:kind>/<uuid:pk>/", trace.of, name="trace"),
    path("way/<slug:kind>/<uuid:pk>/line/", trace.line, name="line"),
    path("hold/", recalls.ask, name="ask_hold"),
    path("hold/now/", recalls.hold, name="hold"),
    path("drill/", recalls.drill, name="drill"),
    path("recall/<int:recall_id>/", recalls.recall, name="recall"),
    path("recall/<int:recall_id>/let-go/", recalls.let_go, name="let_go"),
    path("recall/<int:recall_id>/notice/", recalls.notice, name="notice"),
]
