"""What rooms further down may listen to."""

from django.dispatch import Signal

pieces_changed = Signal()
"""Pieces were changed by hand or by a file, inside the transaction that changed them."""
