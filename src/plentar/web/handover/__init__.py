"""How a visit ends: work decided, what was mended read again, sheets for owner and technician."""
