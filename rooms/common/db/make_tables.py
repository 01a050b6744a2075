"""The tables of an application's first migration, made at once."""

from collections.abc import Sequence
from typing import Any

from django.db.migrations import AddConstraint, AddField, AddIndex, CreateModel
from django.db.migrations.operations.base import Operation


class MakeTables(Operation):
    """Make a table for each model, as the model is after all of the operations.

    Each model that is added makes Django build every related model anew: a hundred tables that all
    name a person took 20 s of a new shop's first start. Here models are built once an application.
    Only for models that are made here, and for what is added to them.
    """

    reduces_to_sql = True
    reversible = False

    def __init__(self, operations: Sequence[Operation]) -> None:
        made = {one.name_lower for one in operations if isinstance(one, CreateModel)}
        for one in operations:
            is_added = isinstance(one, AddField | AddIndex | AddConstraint)
            if not isinstance(one, CreateModel) and not (is_added and one.model_name_lower in made):
                raise TypeError(f"{one.describe()}: only what makes tables of its own is right")
        self.operations = operations

    def deconstruct(self) -> tuple[str, list[Any], dict[str, Any]]:
        return (self.__class__.__name__, [], {"operations": self.operations})

    def state_forwards(self, app_label: str, state: Any) -> None:
        state.__dict__.pop("apps", None)  # or each of the operations would build them anew
        for operation in self.operations:
            operation.state_forwards(app_label, state)

    def database_forwards(
        self, app_label: str, schema_editor: Any, from_state: Any, to_state: Any
    ) -> None:
        for operation in self.operations:
            if isinstance(operation, CreateModel):
                operation.database_forwards(app_label, schema_editor, from_state, to_state)

    def describe(self) -> str:
        return f"Make the tables of {len(self.operations)} operations"
