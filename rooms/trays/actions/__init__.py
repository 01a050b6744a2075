"""Every change of the trays, by topic."""
