"""What each kind of device is: how it acts, what its coil is like, and how it fails.

A kind is a row here and nothing elsewhere asks for its name. Windows, ohms and VA are those of a
device that prints none (trade habit); acting volts are typical of the kind (trade habit).
"""

from __future__ import annotations

from dataclasses import dataclass

from plentar.core.quantity import Band
from plentar.core.said import Said, say

AT_ONCE_S = Band(0.0, 1.0)


@dataclass(frozen=True, slots=True)
class DeviceKind:
    """One kind of device.

    ``thermal``: a small heater warms a bimetal, so that its switches act seconds to minutes later,
    each at its own time, later on low volts, and only a long call makes the off time count; all
    other kinds have one armature. ``dc_coil``: the coil sits behind a small rectifier.
    ``acts_from_v`` and ``lets_go_below_v`` are AC volts at its terminals. ``switch_faults`` are
    the ways in which each of its switches fails, ``faults`` those of the device itself.
    ``normally_closed`` says that it has such a set, wired or not; ``poles`` how many it usually has.
    """

    name: str
    title: Said
    acts_from_v: float
    lets_go_below_v: float
    coil_ohms: Band
    coil_va: float
    thermal: bool = False
    dc_coil: bool = False
    on_s: Band = AT_ONCE_S
    off_s: Band = AT_ONCE_S
    faults: tuple[str, ...] = ("coil-open", "coil-shorted")
    switch_faults: tuple[str, ...] = ("stuck-open", "stuck-closed", "burnt")
    normally_closed: bool = False
    poles: int = 1


#: Sequencers, contactors and heat relays: what closes rungs.
CONTROLS = {
    kind.name: kind
    for kind in (
        DeviceKind(
            "sequencer",
            say("tables.devices.sequencer"),
            15.0,
            15.0,
            Band(20.0, 150.0),
            5.0,
            thermal=True,
            on_s=Band(1.0, 110.0),
            off_s=Band(1.0, 110.0),
            faults=("coil-open", "coil-shorted", "slow"),
        ),
        DeviceKind("contactor", say("tables.devices.contactor"), 18.0, 12.0, Band(8.0, 25.0), 7.0, poles=2),
        DeviceKind("relay-ac", say("tables.devices.ac-heat-relay"), 18.0, 12.0, Band(10.0, 80.0), 5.0),
        DeviceKind(
            "relay-dc",
            say("tables.devices.dc-heat-relay"),
            15.0,
            15.0,
            Band(200.0, 1000.0),
            2.0,
            dc_coil=True,
            faults=("coil-open", "coil-shorted", "no-rectifier-output"),
        ),
    )
}

#: What brings the blower on for its call. How its sets fail is in their own rows below.
BLOWER_RELAYS = {
    kind.name: kind
    for kind in (
        DeviceKind(
            "spdt",
            say("tables.devices.spdt-blower-relay"),
            18.0,
            12.0,
            Band(10.0, 80.0),
            5.0,
            normally_closed=True,
        ),
        DeviceKind(
            "dpdt",
            say("tables.devices.dpdt-blower-relay"),
            18.0,
            12.0,
            Band(10.0, 80.0),
            5.0,
            normally_closed=True,
        ),
        DeviceKind(
            "time-delay",
            say("tables.devices.time-delay-blower-relay"),
            18.0,
            12.0,
            Band(10.0, 80.0),
            5.0,
            on_s=Band(0.0, 3.0),
            off_s=Band(45.0, 120.0),
            faults=("coil-open", "coil-shorted", "slow"),
        ),
        DeviceKind("board", say("tables.devices.fan-board-relay"), 18.0, 12.0, Band(10.0, 80.0), 5.0),
    )
}
NORMALLY_OPEN_FAULTS = ("no-stuck-open", "no-welded")
#: Of a normally-closed set that is wired.
NORMALLY_CLOSED_FAULTS = ("nc-stuck-open", "nc-welded")

#: A coil below this share of its low end has shorted turns; above this multiple it is open.
SHORTED_SHARE = 0.5
OPEN_MULTIPLE = 10.0
