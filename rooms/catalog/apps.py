from django.apps import AppConfig


class CatalogConfig(AppConfig):
    name = "rooms.catalog"
    label = "catalog"
