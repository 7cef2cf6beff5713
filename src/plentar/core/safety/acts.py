"""How a stop is made safe: what to do in order, what must be true before going on, and by whom."""

from __future__ import annotations

from dataclasses import dataclass

from plentar.core.judgement import Finding, FindingCode
from plentar.core.safety.bars import circuits_of
from plentar.core.unit.parts import HEAT_CALLS
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import ON
from plentar.core.visit.state import PanelState

_BEFORE = {
    FindingCode.HEAT_WITHOUT_BLOWER: "the blower was seen to run with the fan called, and what"
    " brings it on with the heat is mended",
    FindingCode.HIGH_LEAVING_AIR: "the filter, the coil, the wheel and the blower were looked at, and"
    " the air is what the heat needs",
    FindingCode.CONTROL_OVERLOAD: "the load that is too much is found and taken off, or the transformer and"
    " its fuse are of the size for it",
    FindingCode.DRAW_WITHOUT_CALL: "what is welded or fed without a call is found and replaced",
    FindingCode.ELEMENT_TO_GROUND: "the element reads 1 MΩ or more to ground, cold and dry",
    FindingCode.JOINT_HEAT: "the joint is remade, scorched metal and wire gone",
    FindingCode.WHOLE_UNIT: "what is scorched or melted is cut back and replaced",
    FindingCode.NO_BLOWER_TIE: "the blower has a tie to the heat, or the heat stays disabled",
    FindingCode.RUN_ON_SHORT: "a timed off test shows that the blower stops last",
    FindingCode.RELAY_WIRING: "its terminals are wired as the relay bench shows, and the wiring is proved",
    FindingCode.BREAKER_OVER_PLATE: "the breaker is no larger than the plate's maximum (MOP)",
    FindingCode.BREAKER_OVER_CONDUCTOR: "the breaker fits its conductor",
    FindingCode.CONDUCTOR_UNDER_LOAD: "the conductor carries its load, or a stage is left off",
}
_LICENSED = frozenset(
    {FindingCode.BREAKER_OVER_PLATE, FindingCode.BREAKER_OVER_CONDUCTOR, FindingCode.CONDUCTOR_UNDER_LOAD}
)
QUALIFIED = "By a qualified person with the protective equipment for it."
LICENSED = "Breakers and supply wire: a licensed electrician, with a permit where asked."


@dataclass(frozen=True, slots=True)
class MakeSafe:
    """One stop: the acts in order, what must be true before going on, who may do it."""

    stop: Finding
    acts: tuple[str, ...]
    before: str
    who: str
    ends_calls: bool
    opens: tuple[str, ...]


def make_safe(unit: Unit, state: PanelState, stop: Finding) -> MakeSafe:
    """What to do about an open stop as the unit stands now."""
    heats = bool(state.calls & HEAT_CALLS)
    live = [cid for cid in sorted(circuits_of(unit, stop.component)) if state.power[cid] == ON]
    acts = []
    if heats:
        fan = unit.fan_call
        kept = f", {fan} stays for two minutes" if fan in state.calls else ""
        acts.append(f"End the call for heat{kept}.")
    if stop.code is FindingCode.CONTROL_OVERLOAD and state.calls - HEAT_CALLS:
        acts.append("Then end the other calls." if heats else "End the call.")
    plate_alone = stop.code in (FindingCode.NO_BLOWER_TIE, FindingCode.RUN_ON_SHORT)
    if live and not plate_alone:
        acts.append(f"Open the breaker of {' and '.join(live)}; lock and tag it.")
    if plate_alone:
        fan = unit.fan_call
        acts.append(
            f"Call heat only with {fan}: heat ends first, {fan} two minutes later."
            if fan
            else "Leave the heat off."
        )
    if not acts:
        acts.append("Leave it off and locked.")
    who = LICENSED if stop.code in _LICENSED else QUALIFIED
    before = _BEFORE.get(stop.code, "it is put right")
    return MakeSafe(stop, tuple(acts), before, who, heats, () if plate_alone else tuple(live))
