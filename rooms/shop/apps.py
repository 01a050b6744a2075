from datetime import timedelta

from django.apps import AppConfig
from django.core.signals import request_started


class ShopConfig(AppConfig):
    name = "rooms.shop"
    label = "shop"

    def ready(self) -> None:
        from rooms.shop.queries.current import forget, house
        from rooms.shop.queries.progress import SETTINGS, Leading, lead, sections_left, standing
        from rooms.staff.models import Person, Tablet
        from rooms.staff.sessions import register_block_lock

        register_block_lock(lambda: timedelta(minutes=house().lock_minutes))
        request_started.connect(forget, dispatch_uid="the shop's settings, once a request")
        lead(
            Leading(
                SETTINGS,
                "The shop's settings",
                "Six short pages, about two minutes: name, place, prices, cooler, scale, house rules.",
                "shop:walk",
                lambda: not sections_left(standing()),
            ),
            Leading(
                "people",
                "People and tablets",
                "Give yourself and the others a PIN, and enrol this tablet for the block.",
                "staff:people",
                lambda: (
                    Tablet.objects.filter(withdrawn_at=None).exists()
                    and Person.objects.filter(is_active=True).exclude(pin="").exists()
                ),
            ),
        )
