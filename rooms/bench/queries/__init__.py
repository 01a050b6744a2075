"""Rows in, figures from the core out, shaped for a page. Nothing here writes."""
