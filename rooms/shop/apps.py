from django.apps import AppConfig
from django.core.signals import request_started


class ShopConfig(AppConfig):
    name = "rooms.shop"
    label = "shop"

    def ready(self) -> None:
        from rooms.shop.rules.current import forget

        request_started.connect(forget, dispatch_uid="the shop's settings, once a request")
