"""What a shop remembers: search over units and finished visits, and the lead's board."""
