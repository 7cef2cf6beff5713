"""Rounds over any units: planned, taken, how far they are."""
