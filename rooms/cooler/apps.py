from typing import Any

from django.apps import AppConfig
from django.db import connections
from django.db.migrations.executor import MigrationExecutor
from django.db.models.signals import post_migrate


class CoolerConfig(AppConfig):
    name = "rooms.cooler"
    label = "cooler"

    def ready(self) -> None:
        from rooms.catalog.signals import pieces_changed
        from rooms.cooler.models import Bag, Delivery
        from rooms.shop.queries.records import Kept, tell
        from rooms.shop.signals import zone_moved

        priced = Bag.objects.filter(price_amount__isnull=False)
        tell(
            Kept("bag with its price", "bags with their prices", priced.count, in_currency=True),
            Kept(
                "open delivery",
                "open deliveries",
                Delivery.objects.filter(closed_at=None).count,
                in_unit=True,
            ),
        )
        zone_moved.connect(_keep_all_days, dispatch_uid="cooler days")
        pieces_changed.connect(_keep_all_days, dispatch_uid="cooler days")
        post_migrate.connect(_after_migration, sender=self, dispatch_uid="cooler days")


def _after_migration(using: str | None, **_: Any) -> None:
    """What ships may have changed; nothing is done on the way to an older state."""
    executor = MigrationExecutor(connections[using])
    if not executor.migration_plan(executor.loader.graph.leaf_nodes()):
        _keep_all_days()


def _keep_all_days(**_: Any) -> None:
    """The days of what lies in the cooler, anew."""
    from rooms.cooler.actions.days import keep_days
    from rooms.cooler.models import Bag

    keep_days(Bag.objects.in_cooler())
