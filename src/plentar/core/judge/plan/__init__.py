"""What to read next: what can be taken, what it would tell, what it costs."""
