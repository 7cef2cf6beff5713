"""What a unit has read over its visits: series of one quantity at one part, and whether they drift."""
