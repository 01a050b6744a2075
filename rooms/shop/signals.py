"""What the shop tells the rooms after it."""

from django.dispatch import Signal

zone_moved = Signal()
"""The shop keeps another time zone: what was worked out by the day is worked out anew, in the new one."""
