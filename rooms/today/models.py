"""Nothing of its own: Today is made of what the other rooms know."""
