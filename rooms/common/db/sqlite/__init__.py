"""SQLite that makes no database by itself."""
