"""The tape: times by touch, logged currents, and the simulated clamp."""
