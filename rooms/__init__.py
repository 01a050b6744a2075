"""The shop's rooms, one Django app each, in the order of the work."""
