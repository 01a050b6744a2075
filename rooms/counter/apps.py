from django.apps import AppConfig


class CounterConfig(AppConfig):
    name = "rooms.counter"
    label = "counter"
