"""Hypothesis strategies: any plate, any kit."""

from __future__ import annotations

from hypothesis import strategies as st

from plentar.core.errors import BadInput
from plentar.core.unit.kits import KIT_CONTROLS, KIT_KW, KIT_TIES, KIT_VOLTS, Kit, build_kit
from plentar.core.unit.ratings import Rating
from plentar.core.unit.unit import Unit
from plentar.core.unit.usual_print import as_usually_printed
from plentar.files.unit_json import UnitJson, unit_to_json

ratings = st.builds(
    Rating, rated_watts=st.floats(500, 20_000), rated_volts=st.sampled_from([208.0, 230.0, 240.0])
)
volts = st.floats(150, 280)


@st.composite
def any_units(draw: st.DrawFn) -> Unit:
    """A unit with any of what the file can say of one, optional keys there or not."""
    unit = draw(kit_units())
    plate = unit_to_json(unit)
    some = st.booleans()
    numbers = st.decimals(1, 100, places=3).map(float)

    def maybe(thing: dict, **values) -> None:
        for key, value in values.items():
            if draw(some):
                thing[key] = draw(value)

    wire = st.fixed_dictionaries(
        {"awg": st.sampled_from(["10", "6", "1/0"]), "material": st.sampled_from(["copper", "aluminium"])},
        optional={
            "insulation_c": st.sampled_from([60, 75, 90]),
            "termination_c": st.sampled_from([60, 75]),
            "cable": st.sampled_from(["nm", "other"]),
            "ambient_c": st.integers(-20, 60).map(float),
            "length_ft": numbers,
        },
    )
    for circuit in plate["circuits"]:
        maybe(circuit, breaker_amps=numbers, conductor=wire, subdivided=some, breaker_at=st.just("unit"))
        plate_of = st.fixed_dictionaries(
            {},
            optional={"min_circuit_amps": numbers, "max_breaker_amps": numbers, "dual": st.just("208/230")},
        )
        maybe(circuit, plate=plate_of.filter(bool))
    for device in plate["controls"]:
        maybe(
            device, outdoor_thermostat=st.sampled_from([{}, {"closes_below_f": 30.0}, {"closes_below_f": -5}])
        )
        for switch in device["switches"]:
            maybe(switch, contact_amps=numbers)
    maybe(
        plate["blower"],
        fla=numbers,
        typical_amps=numbers,
        capacitor_uf=numbers,
        min_cfm=numbers,
        rated_cfm=numbers,
        tons=st.sampled_from([2.0, 3.5]),
        speed_tap=st.sampled_from(["medium", "3 × low"]),
        other_speed=st.fixed_dictionaries(
            {"tap": st.sampled_from(["low", "2"])}, optional={"lead": st.sampled_from(["capped", "relay"])}
        ),
    )
    ends = st.sampled_from(["L1", "L2", "blower", "heat", "none"])
    wires = st.fixed_dictionaries({"common": ends, "no": ends, "nc": ends})
    if "relay" in plate["blower"]:
        maybe(plate["blower"]["relay"], wires=wires, contact_amps=numbers)
    maybe(plate["control_power"], primary_volts=st.sampled_from([208.0, 240.0]), c_grounded=some)
    load = st.sampled_from("YO").map(lambda call: {"id": "OD9", "label": "outdoor", "call": call, "va": 7.5})
    maybe(plate, other_loads=load.map(lambda one: [one]))
    feeder = st.fixed_dictionaries(
        {"circuits": st.just([plate["circuits"][0]["id"]])},
        optional={
            "breaker_amps": numbers,
            "conductor": wire,
            "disconnect": st.sampled_from(["switch", "fused", "breaker"]),
        },
    )
    maybe(plate, feeder=feeder)
    return UnitJson.model_validate(plate).to_core()


@st.composite
def kit_units(draw: st.DrawFn) -> Unit:
    """A unit of any starting kit that fits together, its parts read or not."""
    read = draw(st.booleans())
    kit = Kit(
        tuple(draw(st.lists(st.sampled_from([kw * 1000 for kw in KIT_KW]), min_size=1, max_size=4))),
        draw(st.sampled_from(KIT_VOLTS)),
        draw(st.sampled_from(sorted(set(KIT_CONTROLS) - {"nothing"}))),
        draw(st.sampled_from([1, 2])),
        draw(st.sampled_from(sorted(KIT_TIES))),
    )
    try:
        unit = build_kit(kit, "any", "Any unit")
        return as_usually_printed(unit) if read else unit
    except BadInput:
        return build_kit(Kit(kit.element_watts, kit.rated_volts, kit.control, 1, "none"), "any", "")
