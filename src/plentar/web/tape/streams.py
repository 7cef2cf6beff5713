"""How many streams run at once: so many for a person, a shop and a process, and no more."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from threading import Lock
from uuid import UUID

from plentar.store.errors import TooMany
from plentar.words import phrase

OF_PERSON, OF_SHOP, OF_PROCESS = 2, 4, 8


class Streams:
    """Counts the streams that run. Each holds a thread of the server, so that all are limited."""

    def __init__(self) -> None:
        self._lock = Lock()
        self._running: Counter[object] = Counter()

    def begin(self, person: UUID, shop: UUID) -> Callable[[], None]:
        """Count one more; what is returned counts it off. Raises TooMany."""
        limits = {("person", person): OF_PERSON, ("shop", shop): OF_SHOP, "process": OF_PROCESS}
        with self._lock:
            if any(self._running[key] >= most for key, most in limits.items()):
                raise TooMany(phrase("tape.streams.too-many-simulated-clamps"))
            self._running.update(limits.keys())

        def end() -> None:
            with self._lock:
                self._running.subtract(limits.keys())
                self._running += Counter()  # forgets who has none

        return end
