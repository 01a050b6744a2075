"""What later rooms hear of the grinder, inside the transaction in which it happens."""

from django.dispatch import Signal

entry_taken_back = Signal()
"""Something went into a tub by mistake and is out of it again. Sends `entry`, `key`, `by_id`."""
