from django.apps import AppConfig


class GrinderConfig(AppConfig):
    name = "rooms.grinder"
    label = "grinder"

    def ready(self) -> None:
        from rooms.bench.queries.pile_left import register_taker
        from rooms.grinder.queries.meat import grams_in_tubs

        register_taker("tubs", grams_in_tubs)
