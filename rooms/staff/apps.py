from django.apps import AppConfig


class StaffConfig(AppConfig):
    name = "rooms.staff"
    label = "staff"
