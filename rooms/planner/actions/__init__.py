"""Every change in the planner, one action a file."""
