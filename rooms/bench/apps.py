from django.apps import AppConfig


class BenchConfig(AppConfig):
    name = "rooms.bench"
    label = "bench"

    def ready(self) -> None:
        from rooms.bench.models import CuttingTest, ScaleCheck
        from rooms.bench.queries.days import on_another_day
        from rooms.bench.queries.piece_bags import grams_in_piece_bags
        from rooms.bench.queries.pile_left import register_taker
        from rooms.cooler.models import Bag
        from rooms.shop.queries.progress import Leading, lead
        from rooms.shop.queries.records import Kept, tell

        register_taker("pieces", grams_in_piece_bags)
        lead(
            Leading(
                "scale",
                "The scale and its check",
                "Two known weights on the scale: the daily check. Without a scale, not now.",
                "bench:scale",
                ScaleCheck.objects.exists,
            ),
            Leading(
                "first",
                "The first delivery or the first piece",
                "Receive what came, or open a piece on the block and weigh what it gives.",
                "bench:front",
                lambda: Bag.objects.exists() or CuttingTest.objects.exists(),
            ),
        )
        tell(
            Kept(
                "cutting test",
                "cutting tests",
                CuttingTest.objects.count,
                in_currency=True,
                moved=on_another_day,
            ),
            Kept("open test", "open tests", CuttingTest.objects.open().count, in_unit=True),
        )
