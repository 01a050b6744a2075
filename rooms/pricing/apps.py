from django.apps import AppConfig


class PricingConfig(AppConfig):
    name = "rooms.pricing"
    label = "counter"  # a name in the database; decision 43
