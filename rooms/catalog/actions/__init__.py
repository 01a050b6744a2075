"""Every change of the catalog, one action a file."""
