"""What each hypothesis would show: rows of readings, runs of the clockwork."""
