"""Visits: the bench, the readings, closing, the report."""
