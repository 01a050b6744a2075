"""Rows in, page figures out. No writing."""
