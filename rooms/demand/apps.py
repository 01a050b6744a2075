from django.apps import AppConfig


class DemandConfig(AppConfig):
    name = "rooms.demand"
    label = "demand"
