"""Columns that keep a decimal exactly as it was written down."""

from decimal import Decimal
from typing import TYPE_CHECKING, Any

from django.core.exceptions import ValidationError
from django.db import models

from cutting.errors import BadValue
from cutting.quantities import LONGEST_DECIMAL, parse_decimal
from cutting.tracing.lots import LONGEST, lot_key


class PlainDecimalField(models.Field):
    """A plain decimal stored as text: "6.10" comes back as "6.10", on every database.

    Not for sums in SQL; the core adds. No exponents, no NaN, at most 28 digits.
    """

    if TYPE_CHECKING:  # what a column holds is a decimal, or None where it may be

        def __get__(self, instance: object, owner: type) -> Any: ...
        def __set__(self, instance: object, value: Decimal | None) -> None: ...

    description = "an exact decimal, kept as written"

    def db_type(self, connection: Any) -> Any:
        return f"varchar({LONGEST_DECIMAL})"

    def from_db_value(self, value: Any, expression: Any, connection: Any) -> Any:
        return None if value is None else Decimal(value)

    def to_python(self, value: Any) -> Any:
        if value is None or isinstance(value, Decimal):
            return value
        try:
            return parse_decimal(value, self.name)
        except BadValue as bad:
            raise ValidationError(str(bad)) from bad

    def get_prep_value(self, value: Any) -> Any:
        if value is None:
            return None
        text = f"{self.to_python(value):f}"
        if len(text) > LONGEST_DECIMAL:
            raise BadValue(self.name, f"{text} is too long", "at most 28 digits are right")
        return text


class LotKeyField(models.CharField):
    """What the ways to write this row's `lot` have in common, so that one of them finds the others. It
    follows `lot` at every save that writes it."""

    description = "a lot however it is written"

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(
            *args, **{"max_length": LONGEST, "db_index": True, "editable": False} | kwargs
        )

    def pre_save(self, model_instance: Any, add: bool) -> str:
        made = lot_key(model_instance.lot)
        setattr(model_instance, self.attname, made)
        return made
