"""Every change in the cooler, one action a file."""
