"""Every change of the prices that are built, and of reviews."""
