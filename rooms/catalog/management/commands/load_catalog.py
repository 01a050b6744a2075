from django.core.management.base import BaseCommand

from rooms.catalog.actions import load_catalog


class Command(BaseCommand):
    help = "Load the shipped pieces, plans and cuts. A second time changes nothing."

    def handle(self, *args, **options):
        loaded = load_catalog()
        self.stdout.write(f"catalog: {loaded.added} added, {loaded.changed} changed")
