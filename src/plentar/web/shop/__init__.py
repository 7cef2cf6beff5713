"""A shop's data as one archive, out and in."""
