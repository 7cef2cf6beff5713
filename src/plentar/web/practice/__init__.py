"""Practice: a simulated unit on a bench of its own, and what is told at the end."""
