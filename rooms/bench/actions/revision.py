"""The revision of a test: a column that only grows."""

from django.db import connection
from django.db.models import F

from rooms.bench.models import CuttingTest, Tub

RAISE = f"UPDATE {CuttingTest._meta.db_table} SET revision = revision + 1 WHERE id = %s"  # noqa: S608


def touch(test: CuttingTest) -> None:
    """Raise the test's revision: every action that changes a test ends with this.

    In plain SQL, because it runs at every weighing and an update by the ORM takes ten times as
    long to be worded as to be done.
    """
    with connection.cursor() as cursor:
        cursor.execute(RAISE, [test.pk.hex])
    test.revision += 1


def touch_others(tub: Tub, test: CuttingTest) -> None:
    """Open tests whose piles go into the same tub: their pages must see its new gross weight."""
    CuttingTest.objects.open().filter(outputs__tub=tub).exclude(pk=test.pk).update(
        revision=F("revision") + 1
    )
