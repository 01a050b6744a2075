from django.urls import path

from rooms.layout.views import layout, small

app_name = "layout"
urlpatterns = [
    path("", layout.front, name="front"),
    path("small/", small.small, name="small"),
    path("<slug:key>/", layout.piece, name="piece"),
    path("<slug:key>/strip.pdf", layout.strip, name="strip"),
]
