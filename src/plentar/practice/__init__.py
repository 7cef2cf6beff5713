"""Practice: a simulated unit with something hidden in it, somebody who works on it, and what is told at the end.

The unit is one of the wider world, whose physics are not the judge's. Nothing of a practice is a visit.
"""
