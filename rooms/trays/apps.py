from django.apps import AppConfig


class TraysConfig(AppConfig):
    name = "rooms.trays"
    label = "trays"
