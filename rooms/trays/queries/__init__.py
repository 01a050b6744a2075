"""What the pages of the trays show."""
