from django.apps import AppConfig


class LayoutConfig(AppConfig):
    name = "rooms.layout"
    label = "layout"
