"""Every change of what the case needs, by topic."""
