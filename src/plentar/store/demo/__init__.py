"""The demo: fourteen homes, one shop, a round half done. Made up, and the same every time."""
