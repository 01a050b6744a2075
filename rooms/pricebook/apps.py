from django.apps import AppConfig
from django.db.models import Q


def _trays() -> int:
    from rooms.pricebook.models import TraySize

    costs = ("tray_cost", "pad_cost", "film_cost", "label_cost")
    return sum(any(row) for row in TraySize.objects.values_list(*costs))


class PricebookConfig(AppConfig):
    name = "rooms.pricebook"
    label = "pricebook"

    def ready(self) -> None:
        from rooms.pricebook.models import Adder, NeighbourPrice, Price, Product
        from rooms.shop.queries.progress import Leading, lead
        from rooms.shop.queries.records import Kept, tell

        lead(
            Leading(
                "products",
                "What the shop sells, and for how much",
                "One table of the cuts those pieces give, or the shop's own list, pasted.",
                "pricebook:from_catalog",
                lambda: Product.objects.filter(is_sold=True).exists(),
            )
        )
        tell(
            Kept("price", "prices", Price.objects.count, in_currency=True),
            Kept("product", "products", Product.objects.count, in_unit=True),
            Kept(
                "product with its value",
                "products with their values",
                Product.objects.filter(
                    Q(transfer__isnull=False) | Q(ready_cut__isnull=False)
                ).count,
                in_currency=True,
            ),
            Kept("tray with its cost", "trays with their costs", _trays, in_currency=True),
            Kept(
                "step that adds value",
                "steps that add value",
                Adder.objects.count,
                in_currency=True,
            ),
            Kept(
                "neighbor's price",
                "neighbors' prices",
                NeighbourPrice.objects.count,
                in_currency=True,
            ),
        )
