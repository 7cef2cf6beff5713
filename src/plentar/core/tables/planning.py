"""What the planner takes a reading to cost, what a bit is worth to it, and when it has enough.

Minutes are trade habit; what a bit is worth and when patience ends was set by the episodes of the
benchmark and is no fact of the trade.
"""

from __future__ import annotations

from plentar.core.quantity import Quantity

# -- minutes
MINUTES = {
    Quantity.AMPS: 0.5,
    Quantity.VOLTS: 1.0,
    Quantity.VOLTS_DC: 1.0,
    Quantity.OHMS: 2.0,
    Quantity.TEMP_F: 1.5,
    Quantity.UF: 2.5,
}
#: What every reading costs, however quick: walking the probes over, and keying it in.
EACH_MINUTES = 6.0
LESS_USUAL_MINUTES, PAIR_OF_NODES_MINUTES = 0.5, 3.5
POLE_MINUTES, CONTROL_AMPS_MINUTES, CYCLING_MINUTES = 1.5, 2.0, 10.0
#: To get into a state; by jumper; with the outdoor unit running.
POWER_ON_MINUTES, CALL_MINUTES, JUMPER_MINUTES, OUTDOOR_MINUTES = 1.0, 0.3, 2.0, 1.0
PROVE_DEAD_MINUTES, MORE_CIRCUITS_MINUTES = 4.0, 1.5
#: What feeding a coil from the bench takes.
DRIVING_MINUTES = 1.0
#: What is read late in the trade is worth so much less: ten turns of a coil's wire in the jaw, one node to another
#: or to the frame while live; a little less what lies deeper in the kit than element, switch, coil and lugs.
WIRE_TURNS, NODES, DEEPER = 2.0, 1.4, 1.1
#: What a minute of each hazard counts.
SURCHARGE = {"clamp": 1.0, "live": 1.4, "lifting": 1.6, "dead": 1.5}

# -- what a bit is worth
#: A reading that is expected to tell less than this many bits would change nothing.
LEAST_BITS = 0.02
#: What telling faults of one part apart is worth beside telling parts apart.
FAULT_SHARE = 0.1
#: What a decision that is right for certain is worth, in bits.
DECISIVE_BITS = 4.0

# -- when it is enough
#: A decision this sure is made; below the last none is even leant to, and any bit helps.
CLEAR, LEANS = 0.95, 0.5
#: A reading that makes the decision right less often than this more, and tells less than this
#: many bits on the way, would not change it.
LEAST_DECISIVE, LEAST_STEP_BITS = 0.025, 0.12
#: After so many readings patience wears thin; with two faults in the lead, this many times later;
#: while none is even leant to, it does from so many on.
PATIENT_READINGS, TWO_TAKE_LONGER, UNDECIDED_READINGS = 5, 6, 7
#: A reading narrows what it is of to this share of the meter's worst case.
KNOWN_SHARE = 0.6
#: The same reading in the same state is proposed again this often at most.
MOST_REPEATS = 2
#: A reading at a part confirms it where it speaks so much for it against so many of its nearest
#: rivals, nats; one that is proposed for that tells this share of the doubt that is left.
CONFIRMS, RIVALS, LEAST_CONFIRMING_BITS = 1.6, 2, 0.2
#: All hangs on a reading that says so much for the leader against who would lead without it, nats.
HINGES = 3.0
#: Of what would tell most, so many are asked why they are held back.
HELD_TRIED = 8
#: Rivals down to this chance are asked about; beside a sound unit none may have more than this.
LEAST_RIVAL, SOUND_RIVAL = 1e-6, 0.1
#: A sound unit is said to be so from here on, once every element, the blower and the call's end were read.
SOUND_CLEAR = 0.8
#: However long it has taken, a reading that tells this share of the doubt is worth it.
SETTLING_SHARE = 0.4
#: Suspects below this chance are not looked at for others that read alike.
LEAST_ALIKE = 0.01
#: The round of a sound unit is left where a rival weighs more than this beside it.
ROUND_RIVAL = 2.0
#: So many proposals at once.
PROPOSALS = 4

# -- looking around for a second fault
#: Readings at least this far outside of what would be read without the second fault show it, in
#: scales of the meter's error on either side.
APART_SCALES = 2.0
#: A second fault less likely than this is done with; a reading that less often shows one is not
#: worth its walk.
LEAST_OPEN, LEAST_CHANCE = 1e-5, 1.5e-4
#: A fault is shown by a reading that shows this share of its sizes and places.
SHOWN_SHARE = 0.5
#: Readings that say this much against a second fault have looked for it, nats.
SPOKEN = 1.0

#: A suspect that weighs less than this is not run through a proposal to see whether it harms.
LEAST_SUSPECT = 0.02
