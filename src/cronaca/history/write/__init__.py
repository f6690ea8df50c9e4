"""Corrections and imports of what was recorded."""
