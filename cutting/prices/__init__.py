"""Margins, the ladder of a whole piece, moved invoices, ads, give and take."""
