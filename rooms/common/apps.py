from django.apps import AppConfig


class CommonConfig(AppConfig):
    name = "rooms.common"
    label = "common"
