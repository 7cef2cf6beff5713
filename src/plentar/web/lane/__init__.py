"""The round: which units are done, in progress, due, waiting."""
