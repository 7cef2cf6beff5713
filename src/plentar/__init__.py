"""Plentar: due beside measured, for electric heat in residential air handlers."""

__version__ = "0.3.0"
