"""Shops, units, visits and events in PostgreSQL. Queries live here, scoped to one shop."""
