"""Every change in the room of the layout."""
