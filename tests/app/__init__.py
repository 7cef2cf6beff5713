"""The application itself: its pages over HTTP, and in a real browser."""
