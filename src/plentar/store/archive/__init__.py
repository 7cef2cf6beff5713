"""A shop's data as one archive, out and in: every unit's newest plate and every finished visit as visit
files with their photos, the part kinds of its own, its rounds, and its visits as a table."""
