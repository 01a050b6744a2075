from django.apps import AppConfig


class CatalogConfig(AppConfig):
    name = "rooms.catalog"
    label = "catalog"

    def ready(self) -> None:
        from rooms.catalog.models import Piece
        from rooms.shop.queries.progress import Leading, lead

        lead(
            Leading(
                "pieces",
                "Which pieces the shop buys",
                "Touch them on the list, animal by animal. They stand first at the block.",
                "catalog:bought",
                lambda: Piece.objects.filter(is_bought=True).exists(),
            )
        )
