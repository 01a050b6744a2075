"""Rows of one model from a plain query, with every look-up done once.

Like `Model.objects.raw`, which works out columns and converters anew at each call and takes
longer at it than the database takes to answer. For queries that run at every weighing.
"""

from django.db import connection
from django.db.models.base import ModelState


class Loading:
    """`Loading(Output, "WHERE test_id = %s ORDER BY position")(params)` gives a list of outputs.

    `also`: further columns, as {attribute: SQL}, set on each instance.
    """

    def __init__(self, model, tail: str, also: dict[str, str] | None = None):
        self.model, self.tail, self.also = model, tail, also or {}
        self.sql = ""

    def prepare(self):
        fields = self.model._meta.concrete_fields
        table = self.model._meta.db_table
        columns = [f"{table}.{field.column}" for field in fields] + list(self.also.values())
        self.names = [field.attname for field in fields]
        self.converters = []
        for i, field in enumerate(fields):
            column = field.get_col(table)  # a foreign key converts like the key it points to
            made = connection.ops.get_db_converters(column) + column.get_db_converters(connection)
            self.converters += [(i, convert, column) for convert in made]
        self.sql = f"SELECT {', '.join(columns)} FROM {table} {self.tail}"  # noqa: S608 (no input)

    def __call__(self, *params, lock: bool = False) -> list:
        """`lock`: the rows stay as they are until the transaction ends (SQLite locks anyway)."""
        if not self.sql:
            self.prepare()
        held = " FOR UPDATE" if lock and connection.features.has_select_for_update else ""
        with connection.cursor() as cursor:
            cursor.execute(self.sql + held, params)
            rows = cursor.fetchall()
        found, names = [], [*self.names, *self.also]
        for row in rows:
            values = list(row)
            for i, convert, column in self.converters:
                if values[i] is not None:
                    values[i] = convert(values[i], column, connection)
            found.append(self._instance(dict(zip(names, values, strict=True))))
        return found

    def _instance(self, values: dict):
        """As `from_db` makes it, without signals and descriptors: every column is there."""
        instance = self.model.__new__(self.model)
        instance.__dict__.update(values)
        instance._state = ModelState()
        instance._state.adding, instance._state.db = False, connection.alias
        return instance
