from django.apps import AppConfig


class PricingConfig(AppConfig):
    name = "rooms.pricing"
    label = "counter"  # as its tables are called; decision 43
