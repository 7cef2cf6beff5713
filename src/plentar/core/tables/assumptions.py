"""What the judge takes for granted before the first reading: spreads of sound parts, misreadings,
priors beside those of the single faults, and what a complaint is worth.

Spreads are trade habit and makers' tolerances; what stands under *measured* was set by the episodes
of the benchmark and is no fact of the trade.
"""

from __future__ import annotations

from plentar.core.quantity import Band, Quantity

A, V, DC, TEMP = Quantity.AMPS, Quantity.VOLTS, Quantity.VOLTS_DC, Quantity.TEMP_F

# -- how far a sound part may be from nominal, as a share, supply and meter apart
BLOWER_AMPS_SPREAD = Band(0.6, 1.4)
CONTROL_AMPS_SPREAD = Band(0.6, 1.4)
FEED_AMPS_SPREAD = Band(0.90, 1.05)
#: Of what a pole and its wire lose: the run is seldom as long as it is written.
FEED_OHMS_SPREAD = Band(0.6, 1.6)
RISE_SPREAD = Band(0.82, 1.2)
CONTROL_VOLTS_SPREAD = Band(0.93, 1.07)
#: Of a rectifier, by how it is filtered: 0.85 … 1.3 of its AC volts where 0.9 is nominal.
DC_SPREAD = Band(0.93 * 0.85 / 0.9, 1.07 * 1.3 / 0.9)
LINE_VOLTS_SPREAD = Band(0.99, 1.01)
#: What is read through an open part, V, whatever leakage alone gives: it speaks against nobody.
GHOST_V = Band(0.0, 60.0)
#: How often a real meter shows nothing there.
GHOST_ZEROS = 0.5
#: Into so many cells is an unknown of the specimen parted where several readings share it.
UNKNOWN_CELLS = 7
LEAST_CAPACITOR, MOST_CAPACITOR = 0.94, 1.06

# -- the supply as a share of rated: the grid it is told apart on, and how usual each stretch is
SUPPLY_FROM, SUPPLY_TO, SUPPLY_STEP = 0.925, 1.065, 0.01
SUPPLY_USUAL = ((0.915, 0.0), (0.97, 1.0), (1.03, 1.0), (1.075, 0.0))

# -- meters and eyes
#: Below so many volts a millivolt range is used, where the value has two decimals or more; how far
#: it is off there, V, with what a sound contact makes more than its usual.
MILLIVOLTS_BELOW, MILLIVOLTS_FIXED = 1.0, 0.05
#: The meter's worst case in scales of the logistic curve that stands for its error: 1 − tanh(3.6 / 2) ≈ 5 %
#: of a sound meter's readings lie further off than its maker says.
WORST_CASE_SCALES = 3.6
#: How many readings are outright misreadings, usually and on a bad day, and how many visits have
#: one: one reading in thirty in all (measured).
MISREAD, MISREAD_BADLY, BAD_DAYS = 0.012, 0.2, 0.1
#: How many outright misreadings are zero, and over what the others lie.
ZERO_OF_MISREADS = 0.3
RANGE = {A: 60.0, V: 300.0, DC: 60.0, TEMP: 150.0, Quantity.UF: 60.0}
CONTROL_RANGE = {A: 5.0, V: 60.0, DC: 60.0}
#: A reading counts as explained from so many times what a misreading makes of it.
EXPLAINS_TIMES_MISREAD = 8.0
#: Return air that nobody has read, °F.
UNKNOWN_RETURN_F, UNKNOWN_RETURN_ERROR_F = 68.0, 12.0
#: How far off an observed time may be, over what a wrong one lies, and how surely cycling is seen.
OBSERVED_ERROR_S, OBSERVED_RANGE_S = 3.0, 1200.0
CYCLING_SEEN = 0.97
#: How many devices that can act do so when they are started on the bench, and over what a wrong time lies.
ACTS_WHEN_STARTED, TRIED_RANGE_S = 0.97, 300.0
#: What a hand and an ear say of a motor that is told to run, or turned by hand: how often by how it fails;
#: under "" of one that is sound or fails otherwise (trade habit).
FELT = {
    "hums": {"locked": 0.8, "weak-capacitor": 0.5, "open": 0.02, "": 0.05},
    "silent": {"locked": 0.15, "open": 0.9, "": 0.5},
    "spins": {"locked": 0.1, "": 0.95},
    "stiff": {"locked": 0.9, "": 0.05},
}
#: Of several hot limits in one rung, each may be the one that opens.
EITHER = 0.5

# -- priors beside those of the single faults
#: All that no hypothesis covers, and two faults at once, as relative frequencies.
OTHER_WEIGHT, PAIRS_SHARE = 0.2, 0.15
#: A part just put in is seldom bad itself.
REPLACED_SHARE = 0.1
#: What a complaint leaves of a fault that does not give rise to it.
LEAST_SHARE = 0.05

# -- from when on a simulated unit gives rise to a complaint
NO_HEAT_SHARE, ENOUGH_HEAT_SHARE = 0.05, 0.93
NO_POWER_V = 5.0
BURNT_WATTS = 5.0
#: Heat is looked at after this long at least.
LEAST_HEAT_S = 900.0

# -- the look at the whole unit
#: What was seen: the fault that it speaks of, how much likelier that is where it was poor or burnt,
#: and where it was fine.
LOOK_WEIGHS = {
    "filter": ("low", 4.0, 0.7),
    "indoor-coil": ("low", 4.0, 0.7),
    "wheel": ("low", 4.0, 0.7),
    "speed-tap": ("low", 3.0, 0.9),
    "capacitor": ("weak-capacitor", 6.0, 0.8),
    "lugs": ("loose", 5.0, 0.7),
    "panel": ("loose", 4.0, 0.8),
    "strands": ("loose", 2.0, 0.9),
    "spades": ("burnt", 4.0, 0.8),
    "insulation": ("burnt", 3.0, 0.9),
}
