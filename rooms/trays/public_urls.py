"""Where the QR of a label leads: GS1 Digital Link, as the label has it."""

from django.urls import path

from rooms.trays.views import public

app_name = "public"
urlpatterns = [
    path("01/<slug:gtin>/21/<slug:serial>", public.label, name="label"),
    path("01/<slug:gtin>/10/<str:lot>/21/<slug:serial>", public.label, name="label_of_lot"),
]
