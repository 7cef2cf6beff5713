"""The bench without signal: what a phone takes along, keeps, and sends when it can."""
