"""The contact test: what every pair of a device's terminals is due at rest and driven, beside what
was read; a verdict for each set, one for the device; and what repeated starts say.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass

from plentar.core.quantity import Quantity
from plentar.core.relay_bench.fitted import drawer, fitted
from plentar.core.said import NOTHING, Said, listed, rounded, say
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
    read: Said = NOTHING
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
    text: Said


@dataclass(frozen=True, slots=True)
class Repeats:
    """So many starts, of which so many failed; the share that fails is within ``low`` … ``high``
    by Wilson's interval, 95 %."""

    starts: int
    failed: int
    low: float
    high: float
    text: Said


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
                shown, closed = (said.shown, said.closed) if said else (NOTHING, None)
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


def leads_in_words(leads: Tested | None) -> tuple[bool | None, Said]:
    """Whether the leads may be trusted, and what is said of them."""
    if leads is None:
        return None, say("relay-bench.contacts.leads-each-other-first")
    if leads.closed and (leads.ohms is None or leads.ohms <= MOST_LEAD_OHMS):
        return True, say("relay-bench.contacts.leads-good")
    return False, say("relay-bench.contacts.leads-themselves-read-open")


def set_verdicts(kind: PartKind, rows: Iterable[Row]) -> tuple[SetVerdict, ...]:
    """A verdict for each set."""
    every = list(rows)
    return tuple(_of_set(one, [row for row in every if row.set_name == one.name]) for one in kind.sets)


def _of_set(one: ContactSet, rows: list[Row]) -> SetVerdict:
    found = {(row.side, row.driven): row for row in rows}
    wrong = list(_wrong(one, found))
    if wrong:
        return SetVerdict(one.name, "bad", listed(wrong, ";"))
    missing = [
        say(
            "relay-bench.contacts.driven" if r.driven else "relay-bench.contacts.resting",
            pair=listed(r.pair, "–"),
        )
        for r in rows
        if not r.read
    ]
    if missing:
        return SetVerdict(
            one.name, "open", say("relay-bench.contacts.not-read-yet", missing=listed(missing, ","))
        )
    return SetVerdict(one.name, "good", say("relay-bench.contacts.closes-opens-should-rest"))


def _wrong(one: ContactSet, found: Mapping[tuple[str, bool], Row]) -> Iterator[Said]:
    def read(side: str, driven: bool) -> bool | None:
        row = found.get((side, driven))
        return row.closed if row is not None and row.read else None

    for row in found.values():
        if row.read and row.closed is None:
            code = "relay-bench.contacts.burnt-driven" if row.driven else "relay-bench.contacts.burnt-resting"
            yield say(code, pair=listed(row.pair, "–"), read=row.read)
    if read("no", False):
        yield say("relay-bench.contacts.closed-rest-welded", common=one.common, no=one.no)
    if read("nc", True) and read("no", True) is not False:
        yield say("relay-bench.contacts.closed-coil-driven-welded", common=one.common, nc=one.nc)
    if read("nc", True) and read("no", True) is False:
        yield say("relay-bench.contacts.nothing-moves-coil-driven")
    if read("no", True) is False and not read("nc", True):
        yield say("relay-bench.contacts.does-not-close-driven", common=one.common, no=one.no)
    if read("nc", False) is False:
        yield say("relay-bench.contacts.open-rest-burnt-open", common=one.common, nc=one.nc)


def device_verdict(verdicts: Iterable[SetVerdict]) -> SetVerdict:
    """The device: it is as bad as any set in it."""
    every = list(verdicts)
    bad = [v for v in every if v.state == "bad"]
    if len(bad) == len(every) > 1:
        both = (
            say("relay-bench.contacts.both-sets-bad")
            if len(bad) == 2
            else say("relay-bench.contacts.all-sets-bad", len=len(bad))
        )
        return SetVerdict("", "bad", both)
    if bad:
        return SetVerdict(
            "", "bad", say("relay-bench.contacts.set-bad", bad=listed((v.name for v in bad), "and"))
        )
    waits = [v for v in every if v.state == "open"]
    if waits:
        return SetVerdict(
            "",
            "open",
            say("relay-bench.contacts.sets-through", len=len(every) - len(waits), len_2=len(every)),
        )
    return SetVerdict("", "good", say("relay-bench.contacts.every-set-good"))


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
        text = say("relay-bench.contacts.did-not-act-any", starts=starts)
    elif failed:
        text = say(
            "relay-bench.contacts.starts-failed-erratic-fails",
            failed=failed,
            starts=starts,
            low=rounded(100 * low),
            high=rounded(100 * high),
        )
    else:
        text = say("relay-bench.contacts.none-failed-may-still", starts=starts, high=rounded(100 * high))
    return Repeats(starts, failed, low, high, text)


def wilson(hits: int, of: int) -> tuple[float, float]:
    """Wilson's interval of a share, 95 %."""
    share = hits / of
    middle = (share + Z**2 / (2 * of)) / (1 + Z**2 / of)
    half = Z / (1 + Z**2 / of) * math.sqrt(share * (1 - share) / of + Z**2 / (4 * of**2))
    return max(0.0, middle - half), min(1.0, middle + half)
