"""Steps in a logged current, and what acted when."""
