"""Every change in the planner, by topic."""
