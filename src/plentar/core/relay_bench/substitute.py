"""Whether another part may take a failed one's place: what the place asks, held point by point
against what the new part is. Like for like stands first; what is not printed is not assumed.

Run-on is not argued, it is run: the unit with the new part in it goes through the plate's own check.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from enum import StrEnum

from plentar.core.errors import BadInput
from plentar.core.quantity import Band, show
from plentar.core.relay_bench.fitted import fitted, places, switches_of
from plentar.core.relay_bench.refit import refit
from plentar.core.relay_bench.wires import wires_of
from plentar.core.supply.control_budget import control_budget
from plentar.core.supply.loads import contact_loads
from plentar.core.unit.parts import BlowerRelay, Control, Element, Switch
from plentar.core.unit.run_on import short_run_on
from plentar.core.unit.terminals import PartKind
from plentar.core.unit.unit import Device, Unit


class Fitness(StrEnum):
    SAME = "same"
    CHANGES = "changes"
    NO = "no"


class Fit(StrEnum):
    """What one point says: it fits, it fits when something is changed, it does not."""

    FITS = "fits"
    CHANGE = "change"
    NO = "no"


@dataclass(frozen=True, slots=True)
class PartPoint:
    """One thing that was held against the place: what, how it comes out, in words."""

    what: str
    fit: Fit
    text: str


@dataclass(frozen=True, slots=True)
class Substitute:
    """The verdict, each point, and the unit with the new part in it where one can be made."""

    verdict: Fitness
    points: tuple[PartPoint, ...]
    refit: Unit | None

    def saying(self, fit: Fit) -> tuple[PartPoint, ...]:
        return tuple(point for point in self.points if point.fit is fit)


@dataclass(frozen=True)
class _Place:
    """The device that failed, as a part, and the unit around it."""

    unit: Unit
    device: Device
    old: PartKind
    new: PartKind
    refit: Unit | None

    @property
    def of_blower(self) -> bool:
        return isinstance(self.device, BlowerRelay)

    @property
    def used(self) -> tuple[Switch, ...]:
        return switches_of(self.unit, self.device)


def substitute(unit: Unit, device_id: str, new: PartKind) -> Substitute:
    """Hold a part against a device's place; raises BadInput where there is no such device."""
    device = unit.device_by_id.get(device_id)
    if device is None:
        raise BadInput("device", f"no device {device_id!r}")
    place = _Place(unit, device, fitted(unit, device), new, refit(unit, device, new))
    points = tuple(point for rule in _RULES for point in rule(place))
    fits = {point.fit for point in points}
    changed = Fitness.CHANGES if Fit.CHANGE in fits else Fitness.SAME
    return Substitute(Fitness.NO if Fit.NO in fits else changed, points, place.refit)


def _kind(place: _Place) -> Iterator[PartPoint]:
    """Like for like stands first."""
    if place.new.device == place.old.device:
        yield PartPoint("kind", Fit.FITS, f"like for like: {place.new.kind.title}")
    else:
        text = f"{place.new.kind.title} in place of {place.old.kind.title}: write it on the plate"
        yield PartPoint("kind", Fit.CHANGE, text)


def _sets(place: _Place) -> Iterator[PartPoint]:
    """Poles and throws: a set for everything that the old part switched, and the tie kept."""
    new = place.new
    if place.of_blower:
        yield from _throws(place)
        needed = 1
    else:
        needed = len(place.used)
    there = len(new.sets)
    line = [switch for switch in place.used if switch.role != "auxiliary"]
    if there < needed or len(new.power_sets) < len(line):
        yield PartPoint(
            "poles",
            Fit.NO,
            f"{needed} are switched here, it has {len(new.power_sets)} for line current"
            if len(new.power_sets) < len(line)
            else f"{needed} are switched here, it has {there}",
        )
    elif there > needed and there > len(place.old.sets):
        spare = there - needed
        what = "one switch stays" if spare == 1 else f"{spare} switches stay"
        yield PartPoint("poles", Fit.CHANGE, f"{what} spare: no wire on it, and its blades clear of others")
    else:
        yield PartPoint("poles", Fit.FITS, f"{needed} of {there} in use")


def _throws(place: _Place) -> Iterator[PartPoint]:
    blower = place.unit.blower
    wires = place.device.wires if isinstance(place.device, BlowerRelay) else None
    uses_nc = (blower is not None and blower.interlock.kind == "nc-contact") or (
        wires is not None and wires.nc != "none"
    )
    uses_no = wires is None or wires.no != "none"
    ok = [s for s in place.new.sets if (s.nc or not uses_nc) and (s.no or not uses_no)]
    if ok:
        yield PartPoint(
            "throws",
            Fit.FITS,
            "the tie stays on its normally-closed set" if uses_nc else "it makes as the old one did",
        )
    elif uses_nc:
        yield PartPoint(
            "throws", Fit.NO, "it has no normally-closed set: the tie of the blower to the heat would be lost"
        )
    else:
        yield PartPoint("throws", Fit.NO, "it has no normally-open set: nothing would bring the blower on")


def _amps(place: _Place) -> Iterator[PartPoint]:
    """Contacts against what each carries; nothing is asked on top of a rating that is printed."""
    new, old = place.new, place.old
    ids = {place.device.id} if place.of_blower else {s.id for s in place.used}
    loads = {part: load for part, _, load in contact_loads(place.unit) if part in ids}
    if not loads:
        return
    if any(load is None for load in loads.values()):
        yield _unknown_load(new, old)
        return
    worst = max(loads, key=lambda part: loads[part] or 0.0)
    load = loads[worst] or 0.0
    motor = place.of_blower or worst in _motor_switches(place.unit)
    rated = new.motor_amps if motor else new.resistive_amps
    what = "motor amps" if motor else "amps"
    same = new.name == old.name
    if rated is None and not same:
        text = f"its contacts’ {what} are not printed: read them off the part first"
        yield PartPoint("contact amps", Fit.NO, text)
    elif rated is None:
        text = f"the same kind; its {what} are not known: hold its print against the old one’s"
        yield PartPoint("contact amps", Fit.FITS, text)
    elif rated >= load:
        yield PartPoint("contact amps", Fit.FITS, f"{show(rated, 'A')} for {show(load, 'A')}")
    else:
        text = f"made for {show(rated, 'A')}; {worst} carries {show(load, 'A')}"
        yield PartPoint("contact amps", Fit.NO, text)


def _unknown_load(new: PartKind, old: PartKind) -> PartPoint:
    """The motor's amps are not on the plate: the same kind, a contact no less than the old one's, or
    nothing."""
    rated, before = new.motor_amps, old.motor_amps
    unknown = "the motor’s amps are not on the plate"
    if new.name == old.name and rated == before:
        return PartPoint("contact amps", Fit.FITS, f"the same kind with the same print; {unknown}")
    if rated is None or before is None or rated < before:
        text = f"{unknown}, and its contacts are not known to be as good as the old one’s"
        return PartPoint("contact amps", Fit.NO, text)
    text = f"{unknown}; {show(rated, 'A')}, no less than the old one’s"
    return PartPoint("contact amps", Fit.FITS if new.device == old.device else Fit.CHANGE, text)


def _motor_switches(unit: Unit) -> frozenset[str]:
    tie = unit.blower.interlock if unit.blower else None
    return frozenset({tie.switch}) if tie and tie.switch else frozenset()


def _coil(place: _Place) -> Iterator[PartPoint]:
    """Volts, and AC or DC: what feeds the coil, and by which plug."""
    old, new = place.old, place.new
    if new.coil_volts != old.coil_volts:
        yield PartPoint(
            "coil volts",
            Fit.NO,
            f"its coil is for {show(new.coil_volts, 'V')}, {show(old.coil_volts, 'V')} is there",
        )
        return
    yield PartPoint("coil volts", Fit.FITS, show(new.coil_volts, "V"))
    if old.dc == new.dc:
        yield PartPoint(
            "coil kind", Fit.FITS, "DC, by the rectifier that is there" if new.dc else "AC, as the old one"
        )
    elif old.dc:
        yield PartPoint(
            "coil kind",
            Fit.CHANGE,
            "an AC coil: feed it from the 24 V AC ahead of the rectifier, by adapters; leave the old plug on the harness, insulated, for the original part",
        )
    else:
        yield PartPoint(
            "coil kind",
            Fit.CHANGE,
            "a DC coil: only with the small rectifier that belongs to it, fed by the old coil’s two wires",
        )


def _va(place: _Place) -> Iterator[PartPoint]:
    """The transformer with everything called, and its fuse."""
    budget = control_budget(place.unit)
    total = budget.total_va - place.device.coil_va + place.new.va
    over_fuse = budget.fuse_va is not None and total > budget.fuse_va
    if place.new.va <= place.device.coil_va:
        yield PartPoint("coil VA", Fit.FITS, f"{show(place.new.va, 'VA')}, no more than the old one’s")
    elif total > budget.rated_va:
        yield PartPoint(
            "coil VA",
            Fit.NO,
            f"with everything called the transformer would give {show(total, 'VA')} of {show(budget.rated_va, 'VA')}",
        )
    elif over_fuse:
        yield PartPoint(
            "coil VA",
            Fit.NO,
            f"with everything called {show(total, 'VA')} pass a fuse for {show(budget.fuse_va or 0.0, 'VA')}",
        )
    else:
        yield PartPoint(
            "coil VA",
            Fit.FITS,
            f"{show(place.new.va, 'VA')}: {show(total, 'VA')} of {show(budget.rated_va, 'VA')} with everything called",
        )


def _staging(place: _Place) -> Iterator[PartPoint]:
    """Windows kept: later or earlier, all at once, and what then comes on in one step."""
    if place.of_blower:
        return
    old, new = place.old, place.new
    assert isinstance(place.device, Control)
    pairs = places(place.unit, place.device, new)
    if old.kind.thermal and not new.kind.thermal and not _delays(new):
        amps = sum(e.rating.amps(place.unit.circuit_by_id[e.circuit].rated_volts) for e in _heated(place))
        text = f"it acts at once: {show(amps, 'A')} come on in one step, where the old one took its time"
        yield PartPoint(
            "staging", Fit.CHANGE, f"{text}; the lights may dip, and the blower’s tie is to be timed"
        )
    elif new.kind.thermal and not old.kind.thermal:
        last = max(new.on_s(one).high for one in new.sets)
        yield PartPoint(
            "staging",
            Fit.CHANGE,
            f"it takes up to {show(last, 's')} to act, the old one acts at once: tell the owner, and write its window on the plate",
        )
    else:
        wide = [
            one
            for switch, one in pairs
            if _outside(new.on_s(one), switch.on_s) or _outside(new.off_s(one), switch.off_s)
        ]
        if wide:
            one = wide[0]
            yield PartPoint(
                "staging",
                Fit.CHANGE,
                f"its windows are others: on within {_window(new.on_s(one))}, off within {_window(new.off_s(one))}: write them on the plate",
            )
        else:
            yield PartPoint("staging", Fit.FITS, "windows and order as before")


def _delays(kind: PartKind) -> bool:
    return any(kind.on_s(one).high > 1.0 or kind.off_s(one).high > 1.0 for one in kind.sets)


def _heated(place: _Place) -> list[Element]:
    ids = {switch.id for switch in place.used}
    return [e for e in place.unit.elements if ids & set(e.rung)]


def _outside(new: Band, old: Band) -> bool:
    return new.low < old.low - 1.0 or new.high > old.high + 1.0


def _window(band: Band) -> str:
    return f"{band.low:.0f} … {band.high:.0f} s"


def _run_on(place: _Place) -> Iterator[PartPoint]:
    """The blower stops last: the unit with the new part goes through the check of its plate."""
    if place.refit is None:
        return
    before, after = short_run_on(place.unit), short_run_on(place.refit)
    if after is None:
        yield PartPoint("run-on", Fit.FITS, "by its windows the blower stops last")
    elif after.certain:
        yield PartPoint("run-on", Fit.NO, after.text)
    elif before is None or after.gap_s.high > before.gap_s.high:
        yield PartPoint("run-on", Fit.NO, f"worse than with the old part: {after.text}")
    else:
        yield PartPoint("run-on", Fit.FITS, f"no worse than with the old part: {after.text}")


def _blades(place: _Place) -> Iterator[PartPoint]:
    """Terminals: the blade of the coil, and the places for jumpers and double spades."""
    old, new = place.old, place.new
    if old.least_blade != new.least_blade:
        yield PartPoint(
            "blades",
            Fit.CHANGE,
            f"its coil has {_blade(new.least_blade)}, the harness is made for {_blade(old.least_blade)}: adapters made up, no terminal spread or bent",
        )
    holds = {t.name: t.places for t in new.terminals}
    need = max((len(wires) for wires in wires_of(place.unit, place.device).values()), default=0)
    most = max(holds.values())
    if need > most:
        yield PartPoint(
            "blades",
            Fit.CHANGE,
            f"{need} wires lie on one terminal, it takes {most}: a jumper or a double spade for the rest",
        )
    if old.tied and not new.tied:
        yield PartPoint(
            "blades",
            Fit.CHANGE,
            f"{old.tied[0][0]} and {old.tied[0][1]} are tied inside the old part: a jumper does it on this one",
        )
    elif new.tied and not old.tied:
        yield PartPoint(
            "blades",
            Fit.CHANGE,
            f"{new.tied[0][0]} and {new.tied[0][1]} are tied inside: nothing goes on the second of them that is not to meet the first",
        )
    if any(t.dummy for t in old.terminals) and not any(t.dummy for t in new.terminals):
        yield PartPoint(
            "blades",
            Fit.CHANGE,
            "it has no dummy terminal: what the old one held there gets a splice of its own",
        )
    if old.board and not new.board:
        yield PartPoint(
            "mounting",
            Fit.CHANGE,
            "the old one is part of a board: it gets a place beside it, the board’s own stays unwired",
        )
    elif new.board and not old.board:
        yield PartPoint("mounting", Fit.NO, "it is part of a board, and there is no board here")


def _blade(blade: str) -> str:
    return {"screw": "screws", "pin": "a plug’s pins"}.get(blade, f"{blade} in blades")


_RULES: tuple[Callable[[_Place], Iterator[PartPoint]], ...] = (
    _kind,
    _sets,
    _amps,
    _coil,
    _va,
    _staging,
    _run_on,
    _blades,
)
