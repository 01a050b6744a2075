from django.apps import AppConfig


class PricebookConfig(AppConfig):
    name = "rooms.pricebook"
    label = "pricebook"

    def ready(self) -> None:
        from rooms.pricebook.models import Price, Product
        from rooms.shop.rules.first_day import Leading, lead
        from rooms.shop.rules.records import Kept, tell

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
        )
