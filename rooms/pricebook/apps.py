from django.apps import AppConfig


class PricebookConfig(AppConfig):
    name = "rooms.pricebook"
    label = "pricebook"
