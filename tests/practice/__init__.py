"""Practice: scenes, acts, harm, what is told."""
