"""The contact test: what every pair of a device's terminals is due at rest and driven, beside what
was read; a verdict for each set, one for the device; and what repeated starts say.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass

from plentar.core.quantity import Quantity
from plentar.core.relay_bench.fitted import drawer, fitted
from plentar.core.unit.parts import BlowerRelay
from plentar.core.unit.points import named_points
from plentar.core.unit.terminals import ContactSet, PartKind
from plentar.core.unit.unit import Device, Unit
from plentar.core.visit.events import LEADS, Reading, Tested, Tried
from plentar.core.visit.events.event import Event

#: Half a width of a 95 % interval, in standard deviations.
Z = 1.96
#: Leads that read more than this are no leads to test a contact with, Ω.
MOST_LEAD_OHMS = 0.5


@dataclass(frozen=True, slots=True)
class Row:
    """One pair in one state: due closed or open, and what was read of it; None where nothing was,
    or where it read neither."""

    set_name: str
    side: str
    pair: tuple[str, str]
    driven: bool
    due_closed: bool
    read: str = ""
    closed: bool | None = None

    @property
    def good(self) -> bool | None:
        """As it is due; None where that is not known."""
        if not self.read:
            return None
        return self.closed is self.due_closed


@dataclass(frozen=True, slots=True)
class SetVerdict:
    """What one set is: ``good``, ``bad`` or ``open`` (not all read), with the reason."""

    name: str
    state: str
    text: str


@dataclass(frozen=True, slots=True)
class Repeats:
    """So many starts, of which so many failed; the share that fails is within ``low`` … ``high``
    by Wilson's interval, 95 %."""

    starts: int
    failed: int
    low: float
    high: float
    text: str


#: What was read of pairs of terminals, by the pair and whether the coil was driven.
Read = Mapping[tuple[frozenset[str], bool], Tested]


def rows_of(kind: PartKind, read: Read) -> tuple[Row, ...]:
    """The table: every set at rest and driven."""
    rows = []
    for driven in (False, True):
        for one in kind.sets:
            for side, end in (("no", one.no), ("nc", one.nc)):
                if end is None:
                    continue
                said = read.get((frozenset({one.common, end}), driven))
                shown, closed = (said.shown, said.closed) if said else ("", None)
                due = driven == (side == "no")
                rows.append(Row(one.name, side, (one.common, end), driven, due, shown, closed))
    return tuple(rows)


def pair_points(unit: Unit, device: Device) -> dict[str, tuple[str, str]]:
    """The points of the bench that are a pair of terminals of the part in the unit: its coil, the set
    in use of a blower relay, the switches of any other device."""
    kind, known = fitted(unit, device), named_points(unit)
    found = {f"{device.id}.coil": kind.coil}
    if isinstance(device, BlowerRelay):
        one = kind.sets[0]
        ends = {f"{device.id}.no": one.no, f"{device.id}.nc": one.nc}
        return found | {at: (one.common, end) for at, end in ends.items() if end and at in known}
    both = zip(device.switches, kind.sets, strict=False)
    return found | {switch.id: (one.common, one.no) for switch, one in both if one.no}


def readings_of(unit: Unit, device: Device, events: Iterable[Event], *, new: bool) -> Read:
    """What was read of a device's pairs since it was last replaced, on the relay bench or at a point of
    the unit; or of the new part's. The newest counts."""
    there = fitted(unit, device)
    points = {} if new else pair_points(unit, device)
    found: dict[tuple[frozenset[str], bool], Tested] = {}
    for event in events:
        if event.mended == device.id and not new:
            found.clear()
        said = _as_test(event, device.id, points)
        if said is not None and said.new == new:
            kind = drawer(unit)[said.part] if new and said.part else there
            found[frozenset(map(kind.named, said.pair)), said.driven] = said
    return found


def _as_test(event: Event, device: str, points: Mapping[str, tuple[str, str]]) -> Tested | None:
    if isinstance(event, Tested):
        return event if event.device == device and event.pair != LEADS else None
    if not isinstance(event, Reading) or event.at not in points:
        return None
    if event.quantity not in (Quantity.OHMS, Quantity.TONE):
        return None
    heard = event.quantity is Quantity.TONE
    return Tested(
        t_s=event.t_s,
        device=device,
        pair=points[event.at],
        driven=event.driven,
        tone=bool(event.value) if heard else None,
        ohms=None if heard else event.value,
    )


def leads_of(events: Iterable[Event], device: str) -> Tested | None:
    """The newest test of the leads."""
    tests = [e for e in events if isinstance(e, Tested) and e.device == device and e.pair == LEADS]
    return tests[-1] if tests else None


def leads_in_words(leads: Tested | None) -> tuple[bool | None, str]:
    """Whether the leads may be trusted, and what is said of them."""
    if leads is None:
        return None, "leads on each other first, nulled: a tone, or under half an ohm"
    if leads.closed and (leads.ohms is None or leads.ohms <= MOST_LEAD_OHMS):
        return True, "leads are good"
    return False, "the leads themselves read open or high: mend them before a contact is blamed"


def set_verdicts(kind: PartKind, rows: Iterable[Row]) -> tuple[SetVerdict, ...]:
    """A verdict for each set."""
    every = list(rows)
    return tuple(_of_set(one, [row for row in every if row.set_name == one.name]) for one in kind.sets)


def _of_set(one: ContactSet, rows: list[Row]) -> SetVerdict:
    found = {(row.side, row.driven): row for row in rows}
    wrong = list(_wrong(one, found))
    if wrong:
        return SetVerdict(one.name, "bad", "; ".join(wrong))
    missing = [f"{'–'.join(r.pair)} {'driven' if r.driven else 'at rest'}" for r in rows if not r.read]
    if missing:
        return SetVerdict(one.name, "open", f"not read yet: {', '.join(missing)}")
    return SetVerdict(one.name, "good", "closes and opens as it should, at rest and driven")


def _wrong(one: ContactSet, found: Mapping[tuple[str, bool], Row]) -> Iterator[str]:
    def read(side: str, driven: bool) -> bool | None:
        row = found.get((side, driven))
        return row.closed if row is not None and row.read else None

    for row in found.values():
        if row.read and row.closed is None:
            state = "driven" if row.driven else "at rest"
            yield f"{'–'.join(row.pair)} {state} reads {row.read}: burnt, neither open nor closed"
    if read("no", False):
        yield f"{one.common}–{one.no} is closed at rest: welded"
    if read("nc", True) and read("no", True) is not False:
        yield f"{one.common}–{one.nc} is closed with the coil driven: welded"
    if read("nc", True) and read("no", True) is False:
        yield "nothing moves with the coil driven: its coil or armature, if the coil has its ohms and 24 V"
    if read("no", True) is False and not read("nc", True):
        yield f"{one.common}–{one.no} does not close driven: burnt open, or its coil does not pull"
    if read("nc", False) is False:
        yield f"{one.common}–{one.nc} is open at rest: burnt open"


def device_verdict(verdicts: Iterable[SetVerdict]) -> SetVerdict:
    """The device: it is as bad as any set in it."""
    every = list(verdicts)
    bad = [v for v in every if v.state == "bad"]
    if len(bad) == len(every) > 1:
        both = "both sets are bad" if len(bad) == 2 else f"all {len(bad)} sets are bad"
        return SetVerdict("", "bad", both)
    if bad:
        return SetVerdict("", "bad", f"set {' and '.join(v.name for v in bad)} of it is bad")
    waits = [v for v in every if v.state == "open"]
    if waits:
        return SetVerdict("", "open", f"{len(every) - len(waits)} of {len(every)} sets are through")
    return SetVerdict("", "good", "every set is good")


def repeats_of(events: Iterable[Event], device: str) -> Repeats | None:
    """What repeated starts say; None where nobody tried any."""
    tries: list[Tried] = []
    for event in events:
        if event.mended == device:
            tries = []
        if isinstance(event, Tried) and event.device == device:
            tries.append(event)
    if not tries:
        return None
    starts, failed = len(tries), sum(not one.acted for one in tries)
    low, high = wilson(failed, starts)
    if failed == starts:
        text = f"it did not act in any of {starts}"
    elif failed:
        text = (
            f"{failed} of {starts} starts failed: erratic, it fails in {low:.0%} to {high:.0%} of all."
            " Replace it: what works now and then leaves somebody without a blower or with heat alone"
        )
    else:
        text = f"none of {starts} failed: it may still fail in up to {high:.0%} of all"
    return Repeats(starts, failed, low, high, text)


def wilson(hits: int, of: int) -> tuple[float, float]:
    """Wilson's interval of a share, 95 %."""
    share = hits / of
    middle = (share + Z**2 / (2 * of)) / (1 + Z**2 / of)
    half = Z / (1 + Z**2 / of) * math.sqrt(share * (1 - share) / of + Z**2 / (4 * of**2))
    return max(0.0, middle - half), min(1.0, middle + half)
