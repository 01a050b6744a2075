from django.apps import AppConfig


class CounterConfig(AppConfig):
    name = "rooms.counter"
    label = "counter"

    def ready(self) -> None:
        from rooms.counter.models import Kept as KeptPlan
        from rooms.shop.queries.records import Kept, tell

        tell(Kept("kept plan", "kept plans", KeptPlan.objects.count, in_currency=True))
