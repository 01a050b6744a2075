"""Every change in the cooler, by topic."""
