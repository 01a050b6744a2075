"""Whether somebody else was faster: the state of a row that a page has seen."""

import hashlib
import json

from django.db.models import Model


def state_of(row: Model) -> str:
    """A short mark of a row: the same for the same values."""
    columns = {
        field.attname: str(getattr(row, field.attname)) for field in row._meta.concrete_fields
    }
    return hashlib.sha256(json.dumps(columns, sort_keys=True).encode()).hexdigest()[:16]
