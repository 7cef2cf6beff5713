"""Whether another part may take a failed one's place: what the place asks, held point by point
against what the new part is. Like for like stands first; what is not printed is not assumed.

Run-on is not argued, it is run: the unit with the new part in it goes through the plate's own check.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from enum import StrEnum

from plentar.core.errors import BadInput
from plentar.core.quantity import Band
from plentar.core.relay_bench.fitted import fitted, places, switches_of
from plentar.core.relay_bench.refit import refit
from plentar.core.relay_bench.wires import wires_of
from plentar.core.said import Said, figure, say, span
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

    what: Said
    fit: Fit
    text: Said


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
        raise BadInput("device", say("relay-bench.substitute.no-device", device_id=device_id))
    place = _Place(unit, device, fitted(unit, device), new, refit(unit, device, new))
    points = tuple(point for rule in _RULES for point in rule(place))
    fits = {point.fit for point in points}
    changed = Fitness.CHANGES if Fit.CHANGE in fits else Fitness.SAME
    return Substitute(Fitness.NO if Fit.NO in fits else changed, points, place.refit)


def _kind(place: _Place) -> Iterator[PartPoint]:
    """Like for like stands first."""
    if place.new.device == place.old.device:
        yield PartPoint(
            say("relay-bench.substitute.kind"),
            Fit.FITS,
            say("relay-bench.substitute.like-like", kind=place.new.kind.title),
        )
    else:
        text = say(
            "relay-bench.substitute.place-write-plate", kind=place.new.kind.title, kind_2=place.old.kind.title
        )
        yield PartPoint(say("relay-bench.substitute.kind"), Fit.CHANGE, text)


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
            say("relay-bench.substitute.poles"),
            Fit.NO,
            say("relay-bench.substitute.switched-here-has-line", needed=needed, len=len(new.power_sets))
            if len(new.power_sets) < len(line)
            else say("relay-bench.substitute.switched-here-has", needed=needed, there=there),
        )
    elif there > needed and there > len(place.old.sets):
        spare = there - needed
        what = (
            say("relay-bench.substitute.one-switch-stays")
            if spare == 1
            else say("relay-bench.substitute.switches-stay", spare=spare)
        )
        yield PartPoint(
            say("relay-bench.substitute.poles"),
            Fit.CHANGE,
            say("relay-bench.substitute.spare-no-wire-blades", what=what),
        )
    else:
        yield PartPoint(
            say("relay-bench.substitute.poles"),
            Fit.FITS,
            say("relay-bench.substitute.use", needed=needed, there=there),
        )


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
            say("relay-bench.substitute.throws"),
            Fit.FITS,
            say("relay-bench.substitute.tie-stays-normally-closed")
            if uses_nc
            else say("relay-bench.substitute.makes-old-one-did"),
        )
    elif uses_nc:
        yield PartPoint(
            say("relay-bench.substitute.throws"), Fit.NO, say("relay-bench.substitute.has-no-normally-closed")
        )
    else:
        yield PartPoint(
            say("relay-bench.substitute.throws"), Fit.NO, say("relay-bench.substitute.has-no-normally-open")
        )


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
    what = say("relay-bench.substitute.motor-amps") if motor else "amps"
    same = new.name == old.name
    if rated is None and not same:
        text = say("relay-bench.substitute.contacts-not-printed-read", what=what)
        yield PartPoint(say("relay-bench.substitute.contact-amps"), Fit.NO, text)
    elif rated is None:
        text = say("relay-bench.substitute.same-kind-not-known", what=what)
        yield PartPoint(say("relay-bench.substitute.contact-amps"), Fit.FITS, text)
    elif rated >= load:
        yield PartPoint(
            say("relay-bench.substitute.contact-amps"),
            Fit.FITS,
            say("relay-bench.substitute.for", rated=figure(rated, "A"), load=figure(load, "A")),
        )
    else:
        text = say(
            "relay-bench.substitute.made-carries",
            rated=figure(rated, "A"),
            worst=worst,
            load=figure(load, "A"),
        )
        yield PartPoint(say("relay-bench.substitute.contact-amps"), Fit.NO, text)


def _unknown_load(new: PartKind, old: PartKind) -> PartPoint:
    """The motor's amps are not on the plate: the same kind, a contact no less than the old one's, or
    nothing."""
    rated, before = new.motor_amps, old.motor_amps
    unknown = say("relay-bench.substitute.motors-amps-not-plate")
    if new.name == old.name and rated == before:
        return PartPoint(
            say("relay-bench.substitute.contact-amps"),
            Fit.FITS,
            say("relay-bench.substitute.same-kind-same-print", unknown=unknown),
        )
    if rated is None or before is None or rated < before:
        text = say("relay-bench.substitute.contacts-not-known-good", unknown=unknown)
        return PartPoint(say("relay-bench.substitute.contact-amps"), Fit.NO, text)
    text = say("relay-bench.substitute.no-less-than-old", unknown=unknown, rated=figure(rated, "A"))
    return PartPoint(
        say("relay-bench.substitute.contact-amps"), Fit.FITS if new.device == old.device else Fit.CHANGE, text
    )


def _motor_switches(unit: Unit) -> frozenset[str]:
    tie = unit.blower.interlock if unit.blower else None
    return frozenset({tie.switch}) if tie and tie.switch else frozenset()


def _coil(place: _Place) -> Iterator[PartPoint]:
    """Volts, and AC or DC: what feeds the coil, and by which plug."""
    old, new = place.old, place.new
    if new.coil_volts != old.coil_volts:
        yield PartPoint(
            say("relay-bench.substitute.coil-volts"),
            Fit.NO,
            say(
                "relay-bench.substitute.coil-there",
                coil_volts=figure(new.coil_volts, "V"),
                coil_volts_2=figure(old.coil_volts, "V"),
            ),
        )
        return
    yield PartPoint(say("relay-bench.substitute.coil-volts"), Fit.FITS, figure(new.coil_volts, "V"))
    if old.dc == new.dc:
        yield PartPoint(
            say("relay-bench.substitute.coil-kind"),
            Fit.FITS,
            say("relay-bench.substitute.dc-rectifier-there")
            if new.dc
            else say("relay-bench.substitute.ac-old-one"),
        )
    elif old.dc:
        yield PartPoint(
            say("relay-bench.substitute.coil-kind"),
            Fit.CHANGE,
            say("relay-bench.substitute.ac-coil-feed-from"),
        )
    else:
        yield PartPoint(
            say("relay-bench.substitute.coil-kind"),
            Fit.CHANGE,
            say("relay-bench.substitute.dc-coil-only-small"),
        )


def _va(place: _Place) -> Iterator[PartPoint]:
    """The transformer with everything called, and its fuse."""
    budget = control_budget(place.unit)
    total = budget.total_va - place.device.coil_va + place.new.va
    over_fuse = budget.fuse_va is not None and total > budget.fuse_va
    if place.new.va <= place.device.coil_va:
        yield PartPoint(
            say("relay-bench.substitute.coil-va"),
            Fit.FITS,
            say("relay-bench.substitute.no-more-than-old", va=figure(place.new.va, "VA")),
        )
    elif total > budget.rated_va:
        yield PartPoint(
            say("relay-bench.substitute.coil-va"),
            Fit.NO,
            say(
                "relay-bench.substitute.everything-called-transformer-would",
                total=figure(total, "VA"),
                rated_va=figure(budget.rated_va, "VA"),
            ),
        )
    elif over_fuse:
        yield PartPoint(
            say("relay-bench.substitute.coil-va"),
            Fit.NO,
            say(
                "relay-bench.substitute.everything-called-pass-fuse",
                total=figure(total, "VA"),
                show=figure(budget.fuse_va or 0.0, "VA"),
            ),
        )
    else:
        yield PartPoint(
            say("relay-bench.substitute.coil-va"),
            Fit.FITS,
            say(
                "relay-bench.substitute.everything-called",
                va=figure(place.new.va, "VA"),
                total=figure(total, "VA"),
                rated_va=figure(budget.rated_va, "VA"),
            ),
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
        text = say("relay-bench.substitute.acts-once-come-one", amps=figure(amps, "A"))
        yield PartPoint(
            say("relay-bench.substitute.staging"),
            Fit.CHANGE,
            say("relay-bench.substitute.lights-may-dip-blowers", text=text),
        )
    elif new.kind.thermal and not old.kind.thermal:
        last = max(new.on_s(one).high for one in new.sets)
        yield PartPoint(
            say("relay-bench.substitute.staging"),
            Fit.CHANGE,
            say("relay-bench.substitute.takes-up-act-old", last=figure(last, "s")),
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
                say("relay-bench.substitute.staging"),
                Fit.CHANGE,
                say(
                    "relay-bench.substitute.windows-others-within-off",
                    window=_seconds(new.on_s(one)),
                    window_2=_seconds(new.off_s(one)),
                ),
            )
        else:
            yield PartPoint(
                say("relay-bench.substitute.staging"),
                Fit.FITS,
                say("relay-bench.substitute.windows-order-before"),
            )


def _delays(kind: PartKind) -> bool:
    return any(kind.on_s(one).high > 1.0 or kind.off_s(one).high > 1.0 for one in kind.sets)


def _heated(place: _Place) -> list[Element]:
    ids = {switch.id for switch in place.used}
    return [e for e in place.unit.elements if ids & set(e.rung)]


def _outside(new: Band, old: Band) -> bool:
    return new.low < old.low - 1.0 or new.high > old.high + 1.0


def _seconds(band: Band) -> Said:
    return span(band.low, band.high, "s")


def _run_on(place: _Place) -> Iterator[PartPoint]:
    """The blower stops last: the unit with the new part goes through the check of its plate."""
    if place.refit is None:
        return
    before, after = short_run_on(place.unit), short_run_on(place.refit)
    if after is None:
        yield PartPoint(
            say("relay-bench.substitute.run"),
            Fit.FITS,
            say("relay-bench.substitute.windows-blower-stops-last"),
        )
    elif after.certain:
        yield PartPoint(say("relay-bench.substitute.run"), Fit.NO, after.text)
    elif before is None or after.gap_s.high > before.gap_s.high:
        yield PartPoint(
            say("relay-bench.substitute.run"),
            Fit.NO,
            say("relay-bench.substitute.worse-than-old-part", after=after.text),
        )
    else:
        yield PartPoint(
            say("relay-bench.substitute.run"),
            Fit.FITS,
            say("relay-bench.substitute.no-worse-than-old", after=after.text),
        )


def _blades(place: _Place) -> Iterator[PartPoint]:
    """Terminals: the blade of the coil, and the places for jumpers and double spades."""
    old, new = place.old, place.new
    if old.least_blade != new.least_blade:
        yield PartPoint(
            say("relay-bench.substitute.blades-2"),
            Fit.CHANGE,
            say(
                "relay-bench.substitute.coil-has-harness-made",
                blade=_blade(new.least_blade),
                blade_2=_blade(old.least_blade),
            ),
        )
    holds = {t.name: t.places for t in new.terminals}
    need = max((len(wires) for wires in wires_of(place.unit, place.device).values()), default=0)
    most = max(holds.values())
    if need > most:
        yield PartPoint(
            say("relay-bench.substitute.blades-2"),
            Fit.CHANGE,
            say("relay-bench.substitute.wires-lie-one-terminal", need=need, most=most),
        )
    if old.tied and not new.tied:
        yield PartPoint(
            say("relay-bench.substitute.blades-2"),
            Fit.CHANGE,
            say("relay-bench.substitute.tied-inside-old-part", tied=old.tied[0][0], tied_2=old.tied[0][1]),
        )
    elif new.tied and not old.tied:
        yield PartPoint(
            say("relay-bench.substitute.blades-2"),
            Fit.CHANGE,
            say(
                "relay-bench.substitute.tied-inside-nothing-goes", tied=new.tied[0][0], tied_2=new.tied[0][1]
            ),
        )
    if any(t.dummy for t in old.terminals) and not any(t.dummy for t in new.terminals):
        yield PartPoint(
            say("relay-bench.substitute.blades-2"),
            Fit.CHANGE,
            say("relay-bench.substitute.has-no-dummy-terminal"),
        )
    if old.board and not new.board:
        yield PartPoint(
            say("relay-bench.substitute.mounting"),
            Fit.CHANGE,
            say("relay-bench.substitute.old-one-part-board"),
        )
    elif new.board and not old.board:
        yield PartPoint(
            say("relay-bench.substitute.mounting"), Fit.NO, say("relay-bench.substitute.part-board-there-no")
        )


def _blade(blade: str) -> Said:
    return {
        "screw": say("relay-bench.substitute.screws"),
        "pin": say("relay-bench.substitute.plugs-pins"),
    }.get(blade, say("relay-bench.substitute.blades", blade=blade))


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
