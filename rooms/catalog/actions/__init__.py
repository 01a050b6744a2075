"""Every change of the catalog, by topic."""
