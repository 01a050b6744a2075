"""Every change of the settings and of the first day, one action a file."""
