"""The relay bench of a device: its contacts, its wiring, its swap, and the motor behind it."""
