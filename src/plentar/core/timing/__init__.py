"""Time: when each switch and the blower is due to act, and when it did."""
