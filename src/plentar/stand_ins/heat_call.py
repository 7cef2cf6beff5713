"""What a simulated clamp logs when nobody is there: a call for heat, and its end."""

from __future__ import annotations

import zlib
from collections.abc import Iterator, Sequence

import numpy as np

from plentar.core.unit.unit import Unit
from plentar.core.visit.events import Calls, Event, Visit
from plentar.core.visit.state import all_off_s
from plentar.stand_ins.logging_clamp import LoggingClamp

CALL_AT_S, REST_S = 10.0, 30.0


def heat_test(unit: Unit, visit: Visit, heat_s: float) -> tuple[tuple[Event, ...], float]:
    """The visit's own calls and breakers, or a call for heat of ``heat_s``; and until when
    to log, past the last window."""
    own = tuple(e for e in visit.events if e.is_switch)
    if any(isinstance(event, Calls) for event in own):
        return own, own[-1].t_s + all_off_s(unit) + REST_S
    ended_s = CALL_AT_S + heat_s
    called: tuple[Event, ...] = (
        Calls(t_s=CALL_AT_S, calls=unit.heat_calls),
        Calls(t_s=ended_s, calls=frozenset()),
    )
    return called, ended_s + all_off_s(unit) + REST_S


def samples(
    clamp: LoggingClamp, events: Sequence[Event], until_s: float, hertz: float, seed: int | str
) -> Iterator[tuple[float, Sequence[float]]]:
    """Time and amps at each point, from 0 to ``until_s``."""
    t_s = np.arange(int(until_s * hertz) + 1) / hertz
    random = np.random.default_rng(zlib.crc32(str(seed).encode()))
    amps = clamp.log(events, t_s, random)
    return ((float(t), [float(a) for a in row]) for t, row in zip(t_s, amps, strict=True))
