"""What must not be proposed or done: by what stands open, and by what it would do."""
