"""Loads, conductors and breakers: what a circuit needs."""
