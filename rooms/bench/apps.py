from django.apps import AppConfig


class BenchConfig(AppConfig):
    name = "rooms.bench"
    label = "bench"
