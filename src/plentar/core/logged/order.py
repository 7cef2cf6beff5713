"""What a unit's windows and a visit's calls say of loads that come and go in a log."""

from __future__ import annotations

from collections.abc import Sequence

from plentar.core.quantity import Band
from plentar.core.tables import thresholds as th
from plentar.core.timing.moves import BLOWER, OFF, ON, Moves
from plentar.core.timing.spells import Spell

#: Steps of two columns this near are one.
SAME_S = 2.0


class Order:
    """Which of several loads is due to come or go first, and whether a call was steady."""

    def __init__(self, moves: Moves, spells: dict[str, list[Spell]]) -> None:
        self.moves, self.unit = moves, moves.unit
        self.known = bool(spells)
        self._spells = spells
        self._own: dict[str, list[float]] = {}

    def has_own(self, load: str, steps_s: Sequence[float]) -> None:
        """A load has a column of its own, which stepped at these times."""
        self._own[load] = list(steps_s)

    def shown(self, load: str, t_s: float) -> bool | None:
        """Whether a load's own column stepped then; None where it has none."""
        if load not in self._own:
            return None
        return any(abs(t_s - own_s) <= SAME_S for own_s in self._own[load])

    def on_key(self, load: str) -> tuple[float, float]:
        """By the windows on: the last of its rung's switches decides."""
        windows = [self._window_s(part, ON) for part in self._switches(load)]
        return max(windows, default=(0.0, 0.0))

    def off_key(self, load: str) -> tuple[float, float]:
        """By the windows off: the first of its rung's switches decides; late on is early off."""
        windows = [self._window_s(part, OFF) for part in self._switches(load)]
        low, high = min(windows, default=(0.0, 0.0))
        return low + high, -sum(self.on_key(load))

    def _switches(self, load: str) -> list[str]:
        element = self.unit.element_by_id.get(load)
        return [s.id for s in self.unit.rung_switches(element)] if element else []

    def _window_s(self, part: str, action: str) -> tuple[float, float]:
        """After the thermostat's call, chains included."""
        switch = self.unit.switch_by_id[part]
        window = switch.on_s if action == ON else switch.off_s
        control = self.unit.control_of_switch[part]
        before = (0.0, 0.0)
        if action == ON and control.through is not None:
            before = self._window_s(control.through, ON)
        return before[0] + window.low, before[1] + window.high

    def steady(self, load: str, from_s: float, to_s: float) -> bool | None:
        """Whether the call behind a load stood all the time; None where no call is known."""
        if not self.known:
            return None
        return any(
            s.start_s.low <= from_s and (s.end_s is None or s.end_s.low >= to_s) for s in self._fed(load)
        )

    def held(self, load: str, from_s: float, to_s: float) -> bool | None:
        """The same, or its switches need not have let go yet when the current came back."""
        if not self.known:
            return None
        late_s = [self.unit.switch_by_id[part].off_s.high for part in self._switches(load)]
        within_s = min(late_s, default=0.0)
        return any(
            s.start_s.low <= from_s and (s.end_s is None or s.end_s.high + within_s >= to_s)
            for s in self._fed(load)
        )

    def _fed(self, load: str) -> list[Spell]:
        if load == BLOWER:
            return [spell for some in self._spells.values() for spell in some]
        return [
            spell
            for part in self._switches(load)
            for spell in self.moves.coil_spells(self.unit.control_of_switch[part])
        ]

    def timely(self, load: str, action: str, t_s: float) -> bool:
        """Whether some window of the visit lets a load act then; yes where no call is known."""
        parts = self._switches(load)
        if not self.known or not parts:
            return True
        error_s = th.WATCH_ERROR_S
        return all(
            any(
                m.action == action and m.due_s.low - error_s <= t_s <= m.due_s.high + error_s
                for m in self.moves.of_switch(self.unit.switch_by_id[part])
            )
            for part in parts
        )

    def stacked(self, one: str, two: str) -> bool:
        """Whether the first comes on before the second in one stack, and goes off after it."""
        a, b = self._place(one), self._place(two)
        return a is not None and b is not None and a[0] == b[0] and a[1] < b[1]

    def _place(self, load: str) -> tuple[str, int] | None:
        """The sequencer that closes a load, and where in its stack."""
        parts = self._switches(load)
        control = self.unit.control_of_switch[parts[0]] if len(parts) == 1 else None
        if control is None or not control.kind.thermal:
            return None
        return control.id, [switch.id for switch in control.switches].index(parts[0])

    def overlap(self, one: str, two: str) -> bool:
        """Whether the windows leave open which of two acts first, on the way on or out."""
        return any(
            a.low <= b.high and b.low <= a.high
            for a, b in zip(self._windows(one), self._windows(two), strict=True)
        )

    def _windows(self, load: str) -> tuple[Band, Band]:
        """When a load may come on after the call, and go off after its end."""
        on = max((self._window_s(part, ON) for part in self._switches(load)), default=(0.0, 0.0))
        off = min((self._window_s(part, OFF) for part in self._switches(load)), default=(0.0, 0.0))
        return Band(*on), Band(*off)

    def acting(self, load: str, action: str) -> str | None:
        if load == BLOWER:
            return BLOWER
        parts = self._switches(load)
        if not parts:
            return None
        if action == ON:
            return max(parts, key=lambda part: self._window_s(part, ON))
        return min(parts, key=lambda part: self._window_s(part, OFF))
