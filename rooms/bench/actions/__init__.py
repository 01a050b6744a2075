"""Every change at the bench, by topic. Views, import and tests call the same ones."""
