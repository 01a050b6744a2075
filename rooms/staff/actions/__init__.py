"""Every change of people, tablets and turns."""
