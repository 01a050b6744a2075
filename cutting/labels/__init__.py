"""Trays and their labels: numbers, words, codes. See docs/formats/label.md."""
