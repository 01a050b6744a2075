"""Where to put the knife on one piece: profiles, cuts, marks."""
