"""Receiving, ageing, temperature."""
