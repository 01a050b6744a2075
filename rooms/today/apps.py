from django.apps import AppConfig


class TodayConfig(AppConfig):
    name = "rooms.today"
    label = "today"
