"""Rails, bars, lettering, seam drawings: coordinates, never figures."""
