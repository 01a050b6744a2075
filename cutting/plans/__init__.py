"""What the case wants, what to buy."""
