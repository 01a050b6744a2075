from django.apps import AppConfig


class CoolerConfig(AppConfig):
    name = "rooms.cooler"
    label = "cooler"
