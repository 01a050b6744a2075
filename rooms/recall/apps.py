from django.apps import AppConfig


class RecallConfig(AppConfig):
    name = "rooms.recall"
    label = "recall"
