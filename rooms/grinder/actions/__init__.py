"""Every change of the grinder: one function each."""
