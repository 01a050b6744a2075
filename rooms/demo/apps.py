from django.apps import AppConfig


class DemoConfig(AppConfig):
    name = "rooms.demo"
    label = "demo"
