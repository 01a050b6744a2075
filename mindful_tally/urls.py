"""Addresses. Each room has its own; Today is the start page."""

from django.urls import include, path

urlpatterns = [
    path("", include("rooms.today.urls")),
    path("", include("rooms.bench.urls")),
    path("layout/", include("rooms.layout.urls")),
    path("planner/", include("rooms.demand.urls")),
    path("", include("rooms.planner.urls")),
    path("grinder/", include("rooms.grinder.urls")),
    path("", include("rooms.trays.public_urls")),
    path("trays/", include("rooms.recall.urls")),
    path("trays/", include("rooms.trays.urls")),
    path("cooler/", include("rooms.cooler.urls")),
    path("pieces/", include("rooms.catalog.urls")),
    path("book/", include("rooms.pricebook.urls")),
    path("counter/", include("rooms.pricing.urls")),
    path("", include("rooms.staff.urls")),
    path("shop/", include("rooms.shop.urls")),
    path("theme/", include("rooms.common.urls")),
]
handler400 = "rooms.common.web.plain.bad_request"
handler403 = "rooms.common.web.plain.forbidden"
handler404 = "rooms.common.web.plain.not_found"
handler500 = "rooms.common.web.plain.server_error"
