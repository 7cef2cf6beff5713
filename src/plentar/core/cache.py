"""What is worked out once and kept: one idiom, bounded by bytes, safe under threads.

A cache never changes an answer: what it has dropped is worked out again.
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Hashable
from threading import RLock
from typing import Generic, TypeVar

K = TypeVar("K", bound=Hashable)
V = TypeVar("V")
MEGABYTE = 1_000_000


class Cache(Generic[K, V]):
    """Values by key, the least recently used going first once they take too many bytes.

    ``bytes_of`` says how much memory a value holds on to; a rough figure will do, but one that
    grows as the value does. A value larger than the whole cache is handed out and not kept; with ``newest``
    it is kept alone, until the next comes.
    """

    def __init__(
        self, name: str, most_bytes: int, bytes_of: Callable[[V], int], *, newest: bool = False
    ) -> None:
        self.name, self.most_bytes, self._newest = name, most_bytes, newest
        self._bytes_of = bytes_of
        self._values: OrderedDict[K, tuple[V, int]] = OrderedDict()
        self._held_bytes = 0
        self._lock = RLock()

    def __len__(self) -> int:
        return len(self._values)

    @property
    def held_bytes(self) -> int:
        """What the values take together, by ``bytes_of``."""
        return self._held_bytes

    def get(self, key: K) -> V | None:
        """The value of a key, if it is kept."""
        with self._lock:
            entry = self._values.get(key)
            if entry is None:
                return None
            self._values.move_to_end(key)
            return entry[0]

    def keep(self, key: K, value: V) -> V:
        """Keep a value; the same key again replaces it."""
        size = self._bytes_of(value)
        with self._lock:
            self._drop(key)
            if self._newest or size <= self.most_bytes:
                self._values[key] = (value, size)
                self._held_bytes += size
            while self._held_bytes > self.most_bytes and len(self._values) > self._newest:
                self._drop(next(iter(self._values)))
        return value

    def get_or_make(self, key: K, make: Callable[[], V]) -> V:
        """The kept value, or a new one. Two threads that ask at once may both make it."""
        value = self.get(key)
        return self.keep(key, make()) if value is None else value

    def clear(self) -> None:
        """Forget everything."""
        with self._lock:
            self._values.clear()
            self._held_bytes = 0

    def _drop(self, key: K) -> None:
        entry = self._values.pop(key, None)
        if entry is not None:
            self._held_bytes -= entry[1]
