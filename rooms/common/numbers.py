"""The one place that gives documents their numbers, safe with several writers on any database."""

from django.db import transaction
from django.db.models import Max, Model

from rooms.common.models import Series


def next_numbers(model: type[Model], many: int = 1, *, after: int = 0) -> range:
    """The next `many` numbers of a kind of document; the first is above `after`.

    Inside a transaction: the row of the series is locked until it ends, so that a second writer
    waits for its number. A series begins after the highest number that is there.
    """
    with transaction.atomic():
        name = model._meta.label_lower
        highest = model._default_manager.aggregate(last=Max("number"))["last"] or 0
        Series.objects.get_or_create(name=name, defaults={"last": highest})
        series = Series.objects.select_for_update().get(name=name)
        first = max(series.last, highest, after) + 1
        series.last = first + many - 1
        series.save(update_fields=["last"])
    return range(first, first + many)
