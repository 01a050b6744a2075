"""Every change of the trays: one function each."""
