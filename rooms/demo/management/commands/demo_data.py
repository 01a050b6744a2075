from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand
from django.utils import timezone

from rooms.catalog.actions.load_shipped import load_catalog
from rooms.demo.generator import make_shop


class Command(BaseCommand):
    help = "Bring the database up to date and fill it with the invented shop, once."

    def handle(self, *args: Any, **options: Any) -> None:
        self.stdout.write("database: bringing it up to date")
        call_command("migrate", verbosity=0, interactive=False)
        loaded = load_catalog()
        self.stdout.write(f"catalog: {loaded.added} added, {loaded.changed} changed")
        made = make_shop(timezone.now())
        self.stdout.write(f"demo shop: {made} cutting tests made" if made else "demo shop: there")
