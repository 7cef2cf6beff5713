"""What may be wrong: every single fault in its stretches of size and its places, and none."""
