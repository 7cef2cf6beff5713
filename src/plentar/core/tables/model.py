"""What the circuit model assumes of anything that no plate says (typical, trade habit)."""

from __future__ import annotations

from plentar.core.quantity import Band

#: An open part; sound insulation to the frame, far above what an open part leaks.
OPEN_OHMS, INSULATION_OHMS = 80e6, 1e12
#: A closed contact; a breaker's pole; the service, per leg; a conductor of unknown run, per leg.
CONTACT_OHMS, BREAKER_OHMS, SOURCE_OHMS, UNKNOWN_CONDUCTOR_OHMS = 3e-3, 2e-3, 10e-3, 10e-3
#: A foot of wire inside the kit. Much less would drown the leakage of opens in rounding.
WIRE_OHMS = 1e-3
METER_OHMS = 10e6
#: What a transformer's primary takes by itself, about 25 mA: with one leg gone it ties the dead lug
#: to the live one.
MAGNETISING_OHMS = 10e3
#: A transformer's emf over its rated volts, and its inner ohms as a share of volts² / VA.
EMF_RATIO, SOURCE_SHARE = 1.10, 0.10
DEFAULT_BLOWER_AMPS = 3.0
#: What a board hears a call with; without it, an open wire would sound like one.
BOARD_INPUT_OHMS = 1e6
#: AC volts at which a board takes W for called.
BOARD_SEES_V = 10.0
#: DC volts of a rectifier over its AC volts, its coil connected or open; what the AC range shows.
DC_LOADED, DC_OPEN, AC_RANGE_ON_DC_V = 0.9, 1.25, 0.5
#: Behind so many ohms volts are a ghost; from so many volts a node counts as live to ground.
GHOST_OHMS, LIVE_V = 1e6, 10.0
#: BTU/h per CFM and °F at sea level: 60 × 0.075 × 0.24.
SEA_LEVEL_AIR = 1.08
#: Another load's coil is on no plate: the least ohms of a usual contactor; and a blower's full-load
#: amps, for a rotor that is locked.
OTHER_LOAD_OHMS, USUAL_FLA = 8.0, 4.0
#: A motor runs from this share of its volts; an element heats from this share of its amps.
RUNNING_SHARE, HEATING_AMPS_SHARE = 0.5, 0.05
#: Limits cycle where the air is less than this share of rated.
STARVED_AIRFLOW = 0.7
#: A limit that cycles: closed and open for, s; the first closing half as long again.
CYCLE_S, CYCLE_WITHOUT_BLOWER_S = (90.0, 60.0), (72.0, 150.0)
FIRST_CLOSING = 1.5
#: From the heat on, a limit opens for the first time no sooner and no later, s.
FIRST_CLOSING_S = Band(20.0, 600.0)
#: A limit that has opened stays open so long at most, s.
LONGEST_OPEN_S = 360.0
#: How far from its drawn time a cycling limit may move, more with every move.
CYCLE_SPREAD_S = 240.0
#: A fuse carries more than its rating for so many seconds at most.
MELTING_S = 10.0
#: No slow device takes longer than this, s.
MOST_SLOW_S = 1800.0
#: A device that changes its mind this often within so many seconds chatters.
CHATTER_CHANGES, CHATTER_WITHIN_S = 12, 60.0
#: The unit has run undisturbed for this long before a visit.
REST_BEFORE_S = 7200.0
