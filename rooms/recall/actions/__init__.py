"""Every change of recalls and mock recalls."""
