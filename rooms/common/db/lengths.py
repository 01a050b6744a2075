"""Texts are as long as their columns before a database is asked: not every one would refuse."""

from django.db import models

from rooms.common.errors import BadInput


def too_long(row: models.Model) -> list[str]:
    """What is wrong with the lengths of a row's texts, each naming its field."""
    found = []
    for field in row._meta.concrete_fields:
        value = getattr(row, field.attname)
        if isinstance(field, models.CharField) and field.max_length and isinstance(value, str):
            most = field.max_length
            if len(value) > most:
                name = field.verbose_name
                found.append(f"{name} of {len(value)} characters; at most {most} are right")
    return found


def must_fit(row: models.Model) -> None:
    """Raises BadInput for a text that is longer than its column."""
    if wrong := too_long(row):
        raise BadInput(f"{wrong[0][:1].upper()}{wrong[0][1:]}.")
