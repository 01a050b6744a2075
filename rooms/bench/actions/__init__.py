"""Every change at the bench, one action a file. Views, import and tests call the same ones."""
