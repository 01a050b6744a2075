from decimal import Decimal

from django.apps import AppConfig


class PlannerConfig(AppConfig):
    name = "rooms.planner"
    label = "planner"

    def ready(self) -> None:
        from rooms.planner.models import BuyingTerms, DayPlan
        from rooms.planner.models import Kept as KeptPlan
        from rooms.shop.queries.records import Kept, tell

        tell(
            Kept("plan of a day", "plans of a day", DayPlan.objects.count, in_currency=True),
            Kept("kept plan", "kept plans", KeptPlan.objects.count, in_currency=True),
            Kept(
                "piece's buying terms",
                "pieces' buying terms",
                BuyingTerms.objects.exclude(more=Decimal(0)).count,
                in_currency=True,
            ),
        )
