"""Loading the shipped catalog. A second time changes nothing; the shop's edits stay."""

from typing import Any

from cutting.errors import BadDocument
from rooms.catalog.actions.merging import Change, Loaded, Merge
from rooms.catalog.queries import checking, shipped
from rooms.catalog.queries.rows import rows_of
from rooms.common.db.writing import write


@write()
def load_catalog(document: dict[str, Any] | None = None) -> Loaded:
    """Bring the catalog in line with the shipped files, save where the shop has its own.

    Raises BadDocument with every fault when the files are not whole.
    """
    found = shipped.document() if document is None else document
    wrong = checking.faults(found)
    if wrong:
        raise BadDocument(tuple(wrong))
    return Merge(Change(is_import=False, reason="shipped")).run(rows_of(found))
