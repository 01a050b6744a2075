from typing import Any

from django.core.management.base import BaseCommand

from rooms.catalog.actions.load_shipped import load_catalog


class Command(BaseCommand):
    help = "Load the shipped catalog. A second time changes nothing; the shop's edits stay."

    def handle(self, *args: Any, **options: Any) -> None:
        loaded = load_catalog()
        self.stdout.write(f"catalog: {loaded.added} added, {loaded.changed} changed")
        if loaded.kept:
            self.stdout.write(f"catalog: {loaded.kept} of the shop's own values were left alone")
