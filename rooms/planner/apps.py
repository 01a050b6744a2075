from django.apps import AppConfig


class PlannerConfig(AppConfig):
    name = "rooms.planner"
    label = "planner"

    def ready(self) -> None:
        from rooms.planner.models import DayPlan
        from rooms.shop.rules.records import Kept, tell

        tell(Kept("plan of a day", "plans of a day", DayPlan.objects.count, in_currency=True))
