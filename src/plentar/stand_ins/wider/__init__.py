"""A wider world: units, faults and meters by a physics of their own.

It knows the visit file and nothing else of Plentar. What the judge takes for granted varies here
more widely than the judge assumes, so that what holds here does not hold by its own model.
"""
