"""Data with its source: thresholds, defaults, standard sizes."""
