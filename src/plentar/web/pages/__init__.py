"""Help and safety."""
