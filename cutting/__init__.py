"""The trade's arithmetic and rules. No Django, no clock, no files beyond its own data."""
