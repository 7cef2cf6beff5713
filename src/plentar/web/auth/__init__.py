"""Signing in and out, and the theme."""
