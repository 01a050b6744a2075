from django.apps import AppConfig


class GrinderConfig(AppConfig):
    name = "rooms.grinder"
    label = "grinder"
