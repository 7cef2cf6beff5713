"""What the tape shows, computed here so that templates only place it."""

from __future__ import annotations

import json
from collections.abc import Sequence

from flask import url_for
from markupsafe import Markup
from werkzeug.utils import cached_property

from plentar.core.door import faults_in_words
from plentar.core.said import say
from plentar.core.tables import thresholds as th
from plentar.core.timing.moves import BLOWER, Move, Timing
from plentar.core.timing.tape import Lane, Run, Tape, said, tape_of, waits
from plentar.core.unit.parts import CALLS
from plentar.core.visit.events import OFF, ON, Calls
from plentar.drawing.tape import (
    Scale,
    axis,
    call_track,
    move_track,
    over_each_other,
    scale_from_zero,
    scale_of,
)
from plentar.store.logs import LogRow, logs_of
from plentar.store.record import StoredEvent, VisitRecord
from plentar.web.database import database
from plentar.web.tape.rows import LaneView, RepeatRow, Said, Watch
from plentar.web.visits.view import BenchView
from plentar.words import chosen, phrase
from plentar.words.numbers import clock
from plentar.words.visits import action_in_words

WORDS = {
    Timing.WAITING: say("tape.view.not-due-yet"),
    Timing.DUE: say("tape.view.due-now"),
    Timing.NOT_SEEN: say("tape.view.not-seen"),
    Timing.SHOWN: say("tape.view.clamped"),
    Timing.EARLY: say("tape.view.early"),
    Timing.IN_WINDOW: say("tape.view.window"),
    Timing.LATE: say("tape.view.late"),
}
TONES = {
    Timing.IN_WINDOW: "good",
    Timing.SHOWN: "good",
    Timing.LATE: "bad",
    Timing.EARLY: "low",
    Timing.NOT_SEEN: "high",
}
WAITS_SHOWN = 3
#: What a late watch is set forward by, s.
LEADS_S = (30.0, 60.0, 300.0)


class TapeView:
    def __init__(self, record: VisitRecord, live: bool = True) -> None:
        self.record, self.live = record, live
        self.bench = BenchView(record)
        self.base: str = url_for("tape.show", visit_id=record.row.id)

    @cached_property
    def now_s(self) -> float:
        """The visit's time, or that of its last event once it is closed."""
        if self.live:
            return self.record.elapsed_s
        return max((event.t_s for event in self.record.events), default=0.0)

    @cached_property
    def tape(self) -> Tape:
        return tape_of(self.bench.unit, self.bench.visit)

    @property
    def seen(self) -> bool:
        return any(move.seen_s is not None for run in self.tape.runs for move in run.moves)

    @property
    def run(self) -> Run | None:
        """The run that is shown: the last."""
        return self.tape.last

    @cached_property
    def scale(self) -> Scale:
        if self.run is None:
            return Scale(((self.now_s, self.now_s + 120.0, 0.0, 1.0),))
        return scale_of(self.run, self._until_s)

    @property
    def _until_s(self) -> float | None:
        """How far the tape runs on: to now, until everything is over and done."""
        if self.run is None:
            return None
        last_s = max((move.due_s.high for move in self.run.moves), default=self.run.began_s)
        over = self.run.ended_s is not None and self.now_s > last_s
        return None if over else self.now_s

    @property
    def pieces(self) -> str:
        """The scale for the page's script, which moves the line of now."""
        return json.dumps(self.scale.pieces)

    @property
    def watches(self) -> list[Watch]:
        """Since the call, and once it is over since it ended."""
        run = self.run
        if run is None:
            return [Watch("0:00", phrase("tape.view.no-call-yet"), Markup())]
        if run.ended_s is None:
            return [self._watch(run.began_s, phrase("tape.view.since-call"))]
        return [
            self._watch(run.began_s, phrase("tape.view.since-call-began")),
            self._watch(run.ended_s, phrase("tape.view.since-ended"), ended=True),
        ]

    def _watch(self, from_s: float, words: str, ended: bool = False) -> Watch:
        zero = Markup('data-zero="{}"').format(from_s)
        return Watch(clock(self.now_s - from_s), words, zero, ended)

    @property
    def nothing_due(self) -> str:
        """What to say where there is nothing to wait for."""
        if self.run is None:
            return phrase("tape.view.raise-call-when-you")
        ended = self.run.ended_s is not None
        return phrase("tape.view.nothing-due") if ended else phrase("tape.view.nothing-due-end-call")

    @property
    def back(self) -> tuple[str, str]:
        """The way back: address and word."""
        base = self.bench.base
        return (
            (base, phrase("tape.view.bench")) if self.live else (f"{base}/report", phrase("tape.view.report"))
        )

    @property
    def log_points(self) -> str:
        unit = self.bench.unit
        return f"{unit.circuits[0].id}, {unit.elements[0].id}"

    @property
    def leads(self) -> list[tuple[float, str]]:
        """What may be added to the call that stands, s, as its buttons say it."""
        if self.standing_call is None:
            return []
        more = [(self.lead_s + add, f"+{clock(add)}") for add in LEADS_S]
        return [*more, (0.0, phrase("tape.view.none"))] if self.lead_s else more

    @property
    def repeat_heads(self) -> list[str]:
        """The heads of the table of several runs."""
        return [
            "part",
            "due",
            *(phrase("tape.view.run", number=number) for number, _ in self.runs),
            phrase("tape.view.over-each-other"),
        ]

    @property
    def axis(self) -> Markup:
        return Markup(axis(self.scale))

    @cached_property
    def lanes(self) -> list[LaneView]:
        """Every lane, in order."""
        return [self._lane(lane, number) for number, lane in enumerate(self.tape.lanes, start=1)]

    def _lane(self, lane: Lane, number: int) -> LaneView:
        key = str(number) if number <= 9 else ""
        if lane.part in CALLS:
            return self._call_lane(lane, key)
        moves = self.run.of_part(lane.part) if self.run else ()
        verdicts = tuple(self._said(move) for move in moves)
        heard = "; ".join(f"{s.action} {s.word}, {s.text}" for s in verdicts) or phrase(
            "tape.view.nothing-due-2"
        )
        track = move_track(self.scale, moves, self.now_s, f"{chosen(lane.part)}: {heard}")
        action = self._next_action(lane.part, moves)
        return LaneView(
            lane,
            key,
            Markup(track),
            action,
            verdicts[-2:],
            {"part": lane.part, "action": action},
            f"{self.base}/seen",
        )

    def _call_lane(self, lane: Lane, key: str) -> LaneView:
        asked = lane.part in self.bench.state.calls
        spells = self.run.calls.get(lane.part, ()) if self.run else ()
        heard = phrase("tape.view.asked") if asked else phrase("tape.view.not-asked")
        verdicts = tuple(
            Said("", "", "", self._call_said(began_s, ended_s), None, None)
            for began_s, ended_s in spells[-1:]
        )
        return LaneView(
            lane,
            key,
            Markup(call_track(self.scale, spells, f"{lane.part}: {heard}")),
            OFF if asked else ON,
            verdicts,
            {"call": lane.part},
            f"{self.base}/call",
        )

    def _call_said(self, began_s: float, ended_s: float | None) -> str:
        if ended_s is not None:
            return phrase("tape.view.asked-2", ended_s=clock(ended_s - began_s))
        lead = phrase("tape.view.before-watch-was-started", lead_s=clock(self.lead_s)) if self.lead_s else ""
        return phrase("tape.view.asked-since-visit", began_s=clock(max(began_s, 0.0)), lead=lead)

    def _next_action(self, part: str, moves: tuple[Move, ...]) -> str:
        """What the button says: the other way than it was seen to go last."""
        seen = [move for move in moves if move.seen_s is not None]
        if seen:
            return OFF if seen[-1].action == ON else ON
        ended = any(move.action == OFF for move in moves)
        return OFF if ended else ON

    def _said(self, move: Move) -> Said:
        word = move.word(self.now_s)
        provisional = move.provisional and move.seen_s is not None
        return Said(
            action_in_words(move.action),
            str(WORDS[word]) + (phrase("tape.view.provisional") if provisional else ""),
            TONES.get(word, "plain"),
            str(said(move, self.now_s)),
            move.due_s.low if move.seen_s is None else None,
            move.due_s.high if move.seen_s is None else None,
        )

    @property
    def waits(self) -> list[tuple[str, float | None, float | None]]:
        """What to wait for: the words, and from when to when, where that is a window."""
        if self.run is None or not self.live:
            return []
        found = [
            (str(text), move.due_s.low if move else None, move.due_s.high if move else None)
            for move, text in waits(self.tape, self.now_s)
        ]
        return [*found[:WAITS_SHOWN], *(w for w in found[WAITS_SHOWN:] if w[1] is None)]

    @property
    def caution(self) -> str:
        """Heat was seen to come on, and the blower not, though it is overdue."""
        run = self.run
        if run is None or run.ended_s is not None or not self.live:
            return ""
        heats = any(
            move.action == ON
            and move.seen_s is not None
            and move.part in self.bench.unit.switch_by_id
            and self.bench.unit.switch_by_id[move.part].role == "element"
            for move in run.moves
        )
        blower = [move for move in run.of_part(BLOWER) if move.action == ON]
        unseen = blower and all(move.word(self.now_s) is Timing.NOT_SEEN for move in blower)
        if not heats or not (unseen or not blower):
            return ""
        return phrase("tape.view.heat-nobody-has-seen")

    @property
    def turns(self) -> str:
        if self.run is None:
            return ""
        ends = {m.due_s.low for m in self.run.moves} | {m.due_s.high for m in self.run.moves}
        if self.run.ended_s is None:
            ends.add(self.run.began_s + th.OFF_TEST_S)
        last_s = self.scale.pieces[-1][1]
        return ",".join(f"{t:.1f}" for t in sorted({*ends, last_s}) if t > self.now_s)

    # -- the call's lead, and what can be taken back --------------------------------------

    @cached_property
    def standing_call(self) -> StoredEvent | None:
        run = self.run
        if run is None or run.ended_s is not None:
            return None
        began = [
            e
            for e in self.record.events
            if not e.struck_at
            and e.body.get("calls")
            and abs(e.t_s - e.body.get("lead_s", 0.0) - run.began_s) < 1e-6
        ]
        return began[-1] if began else None

    @property
    def lead_s(self) -> float:
        return float(self.standing_call.body.get("lead_s", 0.0)) if self.standing_call else 0.0

    @cached_property
    def last_entry(self) -> tuple[StoredEvent, str] | None:
        """The newest entry of the tape that can be taken back, and what it is."""
        standing = [event for event in self.record.events if not event.struck_at]
        for event in reversed(standing):
            core = self.record.core_event(event)
            if "observe" in event.body:
                return event, f"{event.body['part']} {event.body['observe']}"
            if isinstance(core, Calls):
                # Readings were taken in the state that a call made: it stays with them.
                asked = " + ".join(sorted(core.calls)) or phrase("nothing")
                return (event, phrase("tape.view.call", asked=asked)) if event is standing[-1] else None
        return None

    # -- logs and the simulated clamp -----------------------------------------------------

    @cached_property
    def logs(self) -> Sequence[LogRow]:
        return logs_of(database(), self.record)

    @property
    def faults(self) -> list[tuple[str, str]]:
        return [(fault, str(words)) for fault, words in faults_in_words(self.bench.unit)]

    # -- several runs ---------------------------------------------------------------------

    @property
    def runs(self) -> list[tuple[int, str]]:
        return [(run.number, self._run_words(run)) for run in self.tape.runs]

    def _run_words(self, run: Run) -> str:
        warm = (
            phrase("tape.view.warm-after-last", warm_after_s=clock(run.warm_after_s))
            if run.warm_after_s
            else "cold"
        )
        replaced = (
            phrase("tape.view.after-was-replaced", replaced=", ".join(run.replaced)) if run.replaced else ""
        )
        return phrase("tape.view.at", began_s=clock(run.began_s), warm=warm, replaced=replaced)

    @cached_property
    def repeats(self) -> list[RepeatRow]:
        if len(self.tape.runs) < 2:
            return []
        rows = []
        parts = [lane.part for lane in self.tape.lanes if lane.part not in CALLS]
        for part in parts:
            for action in (ON, OFF):
                some = [
                    (run.number, [m for m in run.of_part(part) if m.action == action][:1])
                    for run in self.tape.runs
                ]
                seen = [m for _, moves in some for m in moves if m.seen_s is not None]
                if seen:
                    rows.append(self._repeat(part, action, [pair for pair in some if pair[1]]))
        return rows

    def _repeat(self, part: str, action: str, some: list[tuple[int, list[Move]]]) -> RepeatRow:
        moves = [(str(number), found[0]) for number, found in some]
        scale = scale_from_zero(move for _, move in moves)
        took = {number: self._took(found[0]) for number, found in some}
        track = over_each_other(
            scale, moves, phrase("tape.view.runs", part=part, action=action_in_words(action), len=len(some))
        )
        last = moves[-1][1]
        due = f"{clock(last.due_s.low - last.clock_s.low)}–{clock(last.longest_s)}"
        return RepeatRow(
            part,
            action_in_words(action),
            due,
            Markup(track),
            tuple(took.get(run.number, ("", "", "")) for run in self.tape.runs),
        )

    def _took(self, move: Move) -> tuple[str, str, str]:
        if move.took_s is None:
            return "", phrase("tape.view.not-seen"), "plain"
        word = move.word(self.now_s)
        return clock(move.took_s), str(WORDS[word]), TONES.get(word, "plain")
