"""The one place that gives documents their numbers, safe with several writers on any database."""

from django.db import connection
from django.db.models import Max, Model

from rooms.common.models import Series

_NEXT = """
UPDATE common_series SET last = %s + CASE WHEN last < %s THEN %s ELSE last END
WHERE name = %s RETURNING last
"""
"""One statement: whoever comes second waits for the row and reads it as the first left it."""


def next_numbers(model: type[Model], many: int = 1, *, after: int = 0) -> range:
    """The next `many` numbers of a kind of document; the first is above `after`.

    A series begins after the highest number that is there. One query but for the first time.
    """
    name = model._meta.label_lower
    last = _raised(name, many, after)
    if last is None:
        highest = model._default_manager.aggregate(last=Max("number"))["last"] or 0
        Series.objects.get_or_create(name=name, defaults={"last": highest})
        last = _raised(name, many, after) or 0
    return range(last - many + 1, last + 1)


def _raised(name: str, many: int, after: int) -> int | None:
    with connection.cursor() as cursor:
        cursor.execute(_NEXT, [many, after, after, name])
        row = cursor.fetchone()
    return row[0] if row else None
