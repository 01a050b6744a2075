"""Every change in the room of the layout, one action a file."""
