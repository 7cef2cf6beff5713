"""Units: making one from a kit, its plate on its drawing, files in and out."""
