"""Every change of the settings and of the first day."""
