"""Every way to fail: of which kind of part, how often, in which sizes.

``frequency`` is relative, for one instance of a part (trade habit; a shop's to change). A size is
what ``predict`` uses, and the edges of the stretches that a judge expects it in: uniform over the
whole, or log-uniform. Sizes are in the mode's own unit: a factor, ohms, or a share of rated.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

from plentar.core.tables.model import CONTACT_OHMS


@dataclass(frozen=True, slots=True)
class Sizes:
    """A fault's size: the nominal one, and the edges of its stretches."""

    nominal: float
    edges: tuple[float, ...] = ()
    log: bool = False

    def stretches(self) -> Iterator[tuple[float, float, float]]:
        """Least, middle and largest size of each stretch."""
        for low, high in zip(self.edges, self.edges[1:], strict=False):
            yield low, math.sqrt(low * high) if self.log else (low + high) / 2, high

    def share(self, low: float, high: float) -> float:
        scale = math.log if self.log else float
        return (scale(high) - scale(low)) / (scale(self.edges[-1]) - scale(self.edges[0]))


@dataclass(frozen=True, slots=True)
class FaultKind:
    """One way to fail. ``of`` is the kind of part, ``mode`` the word of the file contract."""

    of: str
    mode: str
    frequency: float
    sizes: Sizes | None = None


_ROWS = (
    FaultKind("element", "open", 6.0),
    FaultKind("element", "high-resistance", 2.0, Sizes(1.5, (1.15, 1.35, 1.7, 2.5))),
    FaultKind("element", "low-resistance", 1.0, Sizes(0.7, (0.5, 0.7, 0.90))),
    FaultKind("element", "grounded", 1.0, Sizes(1.0, (0.3, 3.0, 30.0, 300.0, 1e4, 5e5), log=True)),
    FaultKind("wire", "open", 2.0),
    FaultKind("tie", "open", 2.0),
    FaultKind("switch", "stuck-open", 10.0),
    FaultKind("switch", "stuck-closed", 8.0),
    FaultKind("switch", "burnt", 4.0, Sizes(0.1, (0.02, 0.08, 0.3), log=True)),
    FaultKind("device", "coil-open", 4.0),
    FaultKind("device", "coil-shorted", 2.0, Sizes(0.15, (0.04, 0.15, 0.25, 0.33, 0.41, 0.5))),
    FaultKind("device", "slow", 4.0),
    FaultKind("device", "stuck-open", 4.0),
    FaultKind("device", "stuck-closed", 4.0),
    FaultKind("device", "no-rectifier-output", 2.0),
    FaultKind("limit", "open", 4.0),
    FaultKind("limit", "weak", 2.0),
    FaultKind("limit", "bridged", 0.2),
    FaultKind("link", "open", 3.0),
    FaultKind("airflow", "low", 8.0, Sizes(0.45, (0.3, 0.65))),
    FaultKind("circuit", "open", 5.0),
    FaultKind("circuit", "no-supply", 4.0),
    FaultKind("circuit", "loose", 5.0, Sizes(0.12, (0.03, 0.1, 0.3), log=True)),
    FaultKind("circuit", "low-volts", 1.0, Sizes(205 / 240, (195 / 240, 205 / 240, 215 / 240))),
    FaultKind("transformer", "dead", 3.0),
    # In narrow steps: each is run at its middle, and that decides which coils still pull in.
    FaultKind("transformer", "weak", 1.0, Sizes(0.70, tuple(n / 100 for n in range(62, 79, 2)))),
    FaultKind("transformer", "wrong-tap", 1.0),
    FaultKind("fuse", "open", 4.0),
    FaultKind("terminal", "no-call", 5.0),
    FaultKind("terminal", "always", 3.0),
    FaultKind("terminal", "with-Y", 1.0),
    FaultKind("terminal", "with-G", 1.0),
    FaultKind("terminal", "to-ground", 2.0, Sizes(CONTACT_OHMS, (CONTACT_OHMS, 0.2, 1.5), log=True)),
    FaultKind("load", "coil-shorted", 2.0, Sizes(0.15, (0.04, 0.15, 0.25, 0.33, 0.41, 0.5))),
    FaultKind("relay", "coil-open", 2.0),
    FaultKind("relay", "coil-shorted", 2.0, Sizes(0.15, (0.04, 0.15, 0.25, 0.33, 0.41, 0.5))),
    FaultKind("relay", "slow", 4.0),
    FaultKind("relay", "no-stuck-open", 5.0),
    FaultKind("relay", "no-welded", 5.0),
    FaultKind("relay", "nc-stuck-open", 5.0),
    FaultKind("relay", "nc-welded", 5.0),
    FaultKind("blower", "open", 3.0),
    FaultKind("blower", "locked", 2.0, Sizes(4.0, (3.0, 6.0))),
    FaultKind("blower", "weak-capacitor", 5.0, Sizes(0.75, (0.5, 0.90))),
)
#: No fault: which of the switches in question the wire of the tie begins behind.
TAPPED = FaultKind("tap", "behind", 0.0)
FAULT_KINDS = {(kind.of, kind.mode): kind for kind in _ROWS}

#: A slow device takes this often the longest time of its window: as ``predict`` has it, least and
#: most, and the stretches that a judge expects, each with its share.
SLOW_TIMES = (2.0, 8.0)
#: Log-even from the least to the most of these, fifteen minutes at most; then a tail to half an hour.
SLOW_LEAST, SLOW_MOST, SLOW_MOST_S, SLOW_TAIL_S = 1.3, 40.0, 900.0, 1800.0
SLOW_STRETCHES, SLOW_TAIL_SHARE = 5, 0.05
#: What the secondary gives on a primary tap for the higher service.
WRONG_TAP_SHARE, HIGH_TAP_V = 208 / 240, 240.0
#: What a weak capacitor leaves of the airflow.
WEAK_CAPACITOR_AIRFLOW = 0.80
#: Where along its length an element touches the frame in ``predict``; and, for a judge, about the
#: middle of either half, with the ends of that: what its two ends draw is least halfway.
GROUNDED_AT = 0.4
GROUNDED_PLACES = {"0.3": ("0.1", "0.5"), "0.7": ("0.5", "0.9")}
#: Which leg of a feed is open or loose, and how often.
OPEN_LEGS = (("l1", 0.4), ("l2", 0.4), ("both", 0.2))
LOOSE_LEGS = (("l1", 0.5), ("l2", 0.5))

#: Relative frequency of a sound unit where something is complained of; on a check-up so many times all
#: faults together (three of four such units are sound); and what a repair adds to it.
HEALTHY, HEALTHY_ON_CHECK_UP, HEALTHY_AFTER_REPAIR = 1.0, 3.0, 20.0


def slow_stretches(window_s: float) -> Iterator[tuple[float, float, float]]:
    """How late a slow device is, as multiples of its first window, which ends after so many s: stretches, each with its
    share."""
    most = max(2 * SLOW_LEAST, min(SLOW_MOST, SLOW_MOST_S / window_s))
    step = (most / SLOW_LEAST) ** (1 / SLOW_STRETCHES)
    tail = SLOW_TAIL_S / window_s
    share = (1 - SLOW_TAIL_SHARE if tail > most else 1.0) / SLOW_STRETCHES
    for n in range(SLOW_STRETCHES):
        yield SLOW_LEAST * step**n, SLOW_LEAST * step ** (n + 1), share
    if tail > most:
        yield most, tail, SLOW_TAIL_SHARE
