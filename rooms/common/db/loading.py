"""Rows of one model read and added with every look-up done once.

Like `Model.objects.raw` and `Model.save`, which work out columns and converters anew at each call
and take longer at it than the database takes to answer. For what runs at every weighing.
"""

from collections.abc import Sequence
from typing import Any

from django.db import DEFAULT_DB_ALIAS, connection, connections
from django.db.models.base import ModelState


class Loading:
    """`Loading(Output, "WHERE test_id IN ({all}) ORDER BY position")(keys)` gives a list of outputs.

    `also`: further columns, as {attribute: SQL}, set on each instance.
    """

    def __init__(self, model: Any, tail: str, also: dict[str, str] | None = None) -> None:
        self.model, self.tail, self.also = model, tail, also or {}
        self.sql = ""

    def prepare(self) -> None:
        fields = self.model._meta.concrete_fields
        table = self.model._meta.db_table
        columns = [f"{table}.{field.column}" for field in fields] + list(self.also.values())
        converters = []
        for i, field in enumerate(fields):
            column = field.get_col(table)  # a foreign key converts like the key it points to
            made = connection.ops.get_db_converters(column) + column.get_db_converters(connection)
            converters += [(i, convert, column) for convert in made]
        # Threads may prepare at once: each sets whole lists, and the query last.
        self.names = [field.attname for field in fields]
        self.converters = converters
        self.sql = f"SELECT {', '.join(columns)} FROM {table} {self.tail}"  # noqa: S608 (no input)

    def __call__(self, *params: Any, lock: bool = False) -> list[Any]:
        """`lock`: the rows stay as they are until the transaction ends (SQLite locks anyway)."""
        if not self.sql:
            self.prepare()
        own = connections[DEFAULT_DB_ALIAS]  # not the proxy, which looks itself up at each use
        sql = self.sql.format(all=", ".join(["%s"] * len(params)))
        held = " FOR UPDATE" if lock and own.features.has_select_for_update else ""
        with own.cursor() as cursor:
            cursor.execute(sql + held, params)
            rows = cursor.fetchall()
        if not rows:
            return []
        # Column by column: a test, a unit or a division stands in every row and is converted once.
        columns: list[Sequence[Any]] = list(zip(*rows, strict=True))
        for i, convert, column in self.converters:
            made = {value: convert(value, column, own) for value in {*columns[i]} - {None}}
            if made:
                columns[i] = list(map(made.get, columns[i]))
        names = (*self.names, *self.also)
        return [self._instance(zip(names, row, strict=True)) for row in zip(*columns, strict=True)]

    def _instance(self, values: Any) -> Any:
        """As `from_db` makes it, without signals and descriptors: every column is there."""
        instance = self.model.__new__(self.model)
        instance.__dict__.update(values)
        instance._state = ModelState()
        instance._state.adding, instance._state.db = False, DEFAULT_DB_ALIAS
        return instance


class Adding:
    """`Adding(Weighing)(weighing)` adds a new row as `save(force_insert=True)` does, without
    signals. The key is set from the database."""

    def __init__(self, model: Any) -> None:
        self.model, self.sql = model, ""

    def prepare(self) -> None:
        meta = self.model._meta
        fields = [field for field in meta.concrete_fields if not field.primary_key]
        columns = ", ".join(field.column for field in fields)
        marks = ", ".join(["%s"] * len(fields))
        self.fields = fields
        self.sql = (
            f"INSERT INTO {meta.db_table} ({columns}) VALUES ({marks})"  # noqa: S608 (no input)
            f" RETURNING {meta.pk.column}"
        )

    def __call__(self, row: Any) -> None:
        if not self.sql:
            self.prepare()
        values = [
            field.get_db_prep_save(getattr(row, field.attname), connection) for field in self.fields
        ]
        with connection.cursor() as cursor:
            cursor.execute(self.sql, values)
            row.pk = cursor.fetchone()[0]
        row._state.adding, row._state.db = False, connection.alias
