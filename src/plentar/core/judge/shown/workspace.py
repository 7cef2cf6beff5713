"""All that the judge keeps for one unit, passed in to every step; bounded by bytes.

A step never looks anything up but here. What was dropped is worked out again.
"""

from __future__ import annotations

from collections import OrderedDict
from functools import cached_property
from threading import Lock, RLock
from typing import TypeVar

from plentar.core.cache import MEGABYTE
from plentar.core.circuit.wiring import wire_up
from plentar.core.judge.hypotheses.hypothesis import single_hypotheses
from plentar.core.judge.shown.ensemble import Ensemble
from plentar.core.judge.shown.rows import Rows
from plentar.core.judge.shown.shelf import Shelves
from plentar.core.unit.unit import Unit

#: What the workspaces of a process may take together, the last one used apart, and what that one may, B.
MOST_BYTES, MOST_ALONE_BYTES = 25 * MEGABYTE, 50 * MEGABYTE
PAIRS_KEPT, SECONDS_KEPT = 96, 2
K = TypeVar("K")
#: Two hypotheses, and which variants of each.
PairKey = tuple[int, int, tuple[tuple[int, int], ...]]


class Workspace:
    """The networks of a unit that are read, its hypotheses, and what the steps keep.

    ``singles`` is the ensemble of the sound unit and every single fault, ``pairs`` those of the pairs
    tried last, ``seconds`` those of a fault (hypothesis, variant) with every other one beside it.
    """

    def __init__(self, unit: Unit) -> None:
        self.unit = unit
        self.rows = Rows(wire_up(unit))
        self.singles = Ensemble(self.rows, single_hypotheses(self.rows.wiring))
        self.pairs: OrderedDict[PairKey, Ensemble] = OrderedDict()
        self.seconds: OrderedDict[tuple[int, int], Ensemble] = OrderedDict()
        self.shelves = Shelves()
        #: Held by whoever reads or writes what is kept here: pages are served by several threads.
        self.lock = RLock()

    def keep_pair(self, key: PairKey, pair: Ensemble) -> Ensemble:
        """A pair's ensemble, the oldest going first."""
        return _keep(self.pairs, key, pair, PAIRS_KEPT)

    def keep_second(self, key: tuple[int, int], ensemble: Ensemble) -> Ensemble:
        """The ensemble of a fault with every other one beside it, the oldest going first."""
        return _keep(self.seconds, key, ensemble, SECONDS_KEPT)

    @property
    def held_bytes(self) -> int:
        """About what it takes, B: its rows, and the runs and shelves of its ensembles."""
        ensembles = (self.singles, *self.pairs.values(), *self.seconds.values())
        own = self.rows.held_bytes + self.shelves.held_bytes
        return own + sum(ensemble.held_bytes for ensemble in ensembles)

    def shrink(self) -> None:
        """Forget what is worked out again soonest: pairs; if that is not enough, shelves and all runs but the last."""
        with self.lock:
            self.pairs.clear()
            self.seconds.clear()
            if self.held_bytes > MOST_ALONE_BYTES:
                self.singles.shrink()

    @cached_property
    def by_id(self) -> dict[str, int]:
        """Where each single hypothesis stands."""
        return {h.id: n for n, h in enumerate(self.singles.hypotheses)}


def _keep(kept: OrderedDict[K, Ensemble], key: K, value: Ensemble, most: int) -> Ensemble:
    kept[key] = value
    kept.move_to_end(key)
    if len(kept) > most:
        kept.popitem(last=False)
    return value


_MAKING = Lock()
_WORKSPACES: OrderedDict[Unit, Workspace] = OrderedDict()


def workspace_of(unit: Unit) -> Workspace:
    """The workspace of a unit; those of the last few units are kept, as many as memory allows."""
    with _MAKING:
        found = _WORKSPACES.get(unit)
        if found is None:
            found = _WORKSPACES[unit] = Workspace(unit)
        _WORKSPACES.move_to_end(unit)
        # Each grows with what it is asked: what all take is added up anew.
        sizes = {known: workspace.held_bytes for known, workspace in _WORKSPACES.items()}
        while len(_WORKSPACES) > 1 and sum(sizes.values()) > MOST_BYTES:
            oldest, _ = _WORKSPACES.popitem(last=False)
            sizes.pop(oldest)
        if sizes[unit] > MOST_ALONE_BYTES:
            found.shrink()
        return found
