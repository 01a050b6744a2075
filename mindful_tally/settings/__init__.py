"""Settings: base, and one small file each for demo, test and production."""
