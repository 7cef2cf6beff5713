"""The fourteen plates of Saltmarsh Lane: starting kits, adjusted to what hangs there."""

from __future__ import annotations

from dataclasses import replace

from plentar.core.quantity import Band
from plentar.core.tables.devices import AT_ONCE_S
from plentar.core.unit.kits import Kit, build_kit, sequencer
from plentar.core.unit.parts import (
    RELAY_KINDS,
    BlowerRelay,
    Circuit,
    CircuitPlate,
    Coil,
    Conductor,
    Control,
    Element,
    Interlock,
    OtherLoad,
    Switch,
)
from plentar.core.unit.unit import Unit
from plentar.core.unit.usual_print import as_usually_printed

PLACE = "Saltmarsh Lane"
SPOTS = ("attic", "closet", "crawl space")
WATTS_5K, WATTS_48, WATTS_35, WATTS_75 = 5000.0, 4800.0, 3500.0, 7500.0
BREAKERS = (20, 25, 30, 35, 40, 45, 50, 60, 70, 80, 90, 100)
OUTDOOR = OtherLoad("OD", "Y", 8, "outdoor contactor")


def plates() -> dict[int, Unit]:
    """The plate of every home, by house number."""
    homes = {
        1: _kit(1, (WATTS_5K,), "single-sequencers", "sequencer-switch"),
        2: _kit(2, (WATTS_5K,) * 2, "double-sequencers"),
        3: _kit(3, (WATTS_5K,) * 2, "contactors"),
        4: _kit(4, (WATTS_48,) * 2, "double-sequencers", "sequencer-switch"),
        5: _home_5(),
        6: _home_6(),
        7: _relay(_kit(7, (WATTS_5K,) * 3, "relays-dc", "g-with-w"), "board"),
        8: _held(_relay(_kit(8, (WATTS_5K,) * 2, "double-sequencers", "g-with-w", volts=208), "board")),
        9: _kit(9, (WATTS_5K,) * 2, "double-sequencers"),
        10: _home_10(),
        11: _kit(11, (WATTS_75,), "contactors"),
        12: _kit(12, (WATTS_35, WATTS_48), "single-sequencers", "sequencer-switch"),
        13: _kit(13, (WATTS_5K,) * 2, "double-sequencers", "none"),
        14: _home_14(),
    }
    return {door: as_usually_printed(_supplied(door, unit)) for door, unit in homes.items()}


def _held(unit: Unit) -> Unit:
    """A fan board that holds the blower for 130 s after its call."""
    assert unit.blower is not None
    assert unit.blower.relay is not None
    relay = replace(unit.blower.relay, off_s=Band(125.0, 135.0))
    return replace(unit, blower=replace(unit.blower, relay=relay))


def _kit(
    door: int,
    watts: tuple[float, ...],
    control: str,
    tie: str = "nc-contact",
    circuits: int = 1,
    volts: float = 240,
) -> Unit:
    # At home 8 the 240 V elements hang on a 208 V service.
    kit = Kit(watts, 240, control, circuits, tie)
    unit = build_kit(kit, f"lane-{door}", f"{door} {PLACE}, {SPOTS[door % 3]}")
    served = tuple(replace(circuit, rated_volts=volts) for circuit in unit.circuits)
    return replace(unit, circuits=served, other_loads=(OUTDOOR,))


def _relay(unit: Unit, kind: str) -> Unit:
    assert unit.blower is not None
    of_kind = RELAY_KINDS[kind]
    relay = BlowerRelay("BR", kind, "G", Coil(24, Band(15, 60), 5), of_kind.on_s, of_kind.off_s, 15)
    return replace(unit, blower=replace(unit.blower, relay=relay))


def _home_5() -> Unit:
    """A double and a single sequencer, the second started by the first's auxiliary switch."""
    unit = _kit(5, (WATTS_5K,) * 3, "double-sequencers", circuits=2)
    first = sequencer(1, ["element", "element", "auxiliary"], "W1")
    second = sequencer(2, ["element"], None, "S1.A")
    return _relay(replace(unit, controls=(first, second)), "dpdt")


def _home_6() -> Unit:
    """One two-pole contactor for both elements, a pole in each leg."""
    unit = _kit(6, (WATTS_35,) * 2, "relays-ac")
    poles = tuple(Switch(f"K1.{n}", AT_ONCE_S, AT_ONCE_S, 40) for n in (1, 2))
    contactor = Control("K1", "contactor", Coil(24, Band(8, 25), 7), poles, "W1")
    elements = tuple(
        replace(e, rung=("K1.1", f"FL{n}", e.id, f"TL{n}", "K1.2"))
        for n, e in enumerate(unit.elements, start=1)
    )
    unit = _relay(unit, "board")
    assert unit.blower is not None
    tied = replace(unit.blower, interlock=Interlock("nc-contact", tap="K1.1"))
    return replace(unit, controls=(contactor,), elements=elements, blower=tied)


def _home_10() -> Unit:
    unit = _kit(10, (WATTS_5K,) * 4, "double-sequencers", circuits=2)
    return _relay(unit, "time-delay")


def _home_14() -> Unit:
    """An electric furnace: one five-switch sequencer, the fourth element switch spare."""
    unit = _kit(14, (WATTS_48,) * 3, "stacked-sequencer", "sequencer-switch")
    stack = sequencer(1, ["element"] * 4 + ["blower"], "W1")
    return replace(unit, controls=(stack,), kind="electric-furnace")


def _supplied(door: int, unit: Unit) -> Unit:
    """Breakers, wire, plates and blower. Home 14 has lost its plate; home 10's wire is small."""
    circuits = tuple(_circuit(door, unit, circuit) for circuit in unit.circuits)
    assert unit.blower is not None
    blower = replace(unit.blower, fla=3.4, typical_amps=2.2, capacitor_uf=7.5, rated_cfm=1200, tons=3)
    return replace(unit, circuits=circuits, blower=blower)


def _circuit(door: int, unit: Unit, circuit: Circuit) -> Circuit:
    amps = sum(_plate_amps(e) for e in unit.elements_on(circuit.id))
    amps += 3.4 if unit.blower and unit.blower.circuit == circuit.id else 0
    minimum = round(1.25 * amps, 1)
    size = next(size for size in BREAKERS if size >= minimum)
    awg = "10" if size <= 30 else "8" if size <= 45 else "6" if size <= 60 else "2"
    if door == 10 and circuit.id == "C2":
        awg = "10"
    wire = Conductor(awg, "copper", 90, 75, "other", 30, 30 + 2.0 * door)
    plate = None if door == 14 else CircuitPlate(minimum, size)
    return replace(circuit, breaker_amps=size, conductor=wire, plate=plate)


def _plate_amps(element: Element) -> float:
    return element.rating.amps(element.rated_volts)
