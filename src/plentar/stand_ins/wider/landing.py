"""A device whose wires somebody has put on terminals: where each lies, right or not."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

#: The end of a wire: its name in the net, and the node that it belongs on.
End = tuple[str, str]


@dataclass(frozen=True, slots=True)
class Landing:
    """``lies`` is the node of each wire's end, empty for one that hangs free; ``straps`` are nodes that the part joins
    inside; ``beside`` are contacts that no rung has: the one that they move with, two nodes, and whether they are
    closed as that one is, or the other way round."""

    device: str
    lies: Mapping[End, str]
    straps: tuple[tuple[str, str], ...] = ()
    beside: tuple[tuple[str, str, str, bool], ...] = ()


def common_of(relay: str) -> str:
    """The node of a blower relay's common terminal."""
    return f"{relay}.com"


def coil_end(device: str) -> str:
    """The node of a coil's other terminal, which leads to C."""
    return f"{device}.coil.out"
