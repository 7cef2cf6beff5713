"""One small module a check: found, clear, or could not be judged because something is missing."""
