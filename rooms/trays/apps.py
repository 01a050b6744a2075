from django.apps import AppConfig


class TraysConfig(AppConfig):
    name = "rooms.trays"
    label = "trays"

    def ready(self) -> None:
        from rooms.bench.queries.pile_left import register_taker
        from rooms.grinder.signals import entry_taken_back
        from rooms.trays.actions.life import tray_taken_out
        from rooms.trays.queries.meat import grams_in_trays

        register_taker("trays", grams_in_trays)
        entry_taken_back.connect(tray_taken_out, dispatch_uid="a tray is a tray again")
