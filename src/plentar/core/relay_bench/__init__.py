"""The relay bench: a device is tested, its wiring proved by running it, and its replacement held
against what its place asks and carried through, wire by wire.
"""
