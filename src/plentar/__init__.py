"""Plentar: due beside measured, for electric heat in residential air handlers."""
