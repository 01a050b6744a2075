"""Models that change their application: the rows that name it follow, the tables stay."""

from collections.abc import Callable, Sequence
from typing import Any

from django.db.migrations import RunPython


def content_types_move(before: str, after: str, names: Sequence[str]) -> RunPython:
    """Return the operation that gives content types, and so their permissions, the new label.

    On a database that has none of them yet, a new shop's, it changes nothing.
    """

    def move(old: str, new: str) -> Callable[[Any, Any], None]:
        def run(apps: Any, schema_editor: Any) -> None:
            types = apps.get_model("contenttypes", "ContentType").objects
            types = types.using(schema_editor.connection.alias)
            for moving in types.filter(app_label=old, model__in=names):
                # One of the new label is there when only a part was migrated before: nothing names it yet.
                types.filter(app_label=new, model=moving.model).delete()
                types.filter(pk=moving.pk).update(app_label=new)

        return run

    return RunPython(move(before, after), move(after, before))
