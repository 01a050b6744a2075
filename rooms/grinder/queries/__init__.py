"""What the grinder's pages show."""
