"""Every change of the grinder, by topic."""
