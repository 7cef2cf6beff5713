"""What a starting kit wrote on a plate as if somebody had read it, and nobody edited since, is left out of
every version of that plate: absent, it is typical of its kind."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import sqlalchemy as sa
from alembic import op

revision = "0015"
down_revision = "0014"
branch_labels = None
depends_on = None

Path = tuple[str | int, ...]
STACK_ON_S = ([1, 20], [30, 90], [40, 100], [50, 110])
STACK_OFF_S = ([40, 110], [30, 90], [20, 80], [1, 60])
COILS = {
    "sequencer": ([20, 80], 6),
    "contactor": ([8, 25], 7),
    "relay-ac": ([10, 80], 5),
    "relay-dc": ([200, 1000], 2),
}
RELAY_COIL = ([15, 60], 5)
RELAY_WINDOWS = {"time-delay": ([0, 3], [45, 120])}
AT_ONCE_S = [0, 1]


def upgrade() -> None:
    bind = op.get_bind()
    version = sa.table(
        "unit_version", sa.column("id", sa.Uuid), sa.column("unit_id", sa.Uuid), sa.column("plate", sa.JSON)
    )
    units: dict[Any, list[Any]] = {}
    for row in bind.execute(sa.select(version.c.id, version.c.unit_id, version.c.plate)):
        units.setdefault(row.unit_id, []).append(row)
    for rows in units.values():
        never_edited = set.intersection(*(set(typical(row.plate)) for row in rows))
        for row in rows if never_edited else ():
            for path in never_edited:
                _leave_out(row.plate, path)
            bind.execute(version.update().where(version.c.id == row.id).values(plate=row.plate))


def downgrade() -> None:
    """What was left out stays so: absent was always allowed."""


def typical(plate: dict[str, Any]) -> Iterator[Path]:
    """Where a plate says what its kit said."""
    for n, control in enumerate(plate.get("controls", [])):
        yield from _as_kit(control, ("controls", n), *COILS[control["type"]])
        stage = 0
        for k, switch in enumerate(control["switches"]):
            role = switch.get("role", "element")
            if control["type"] != "sequencer":
                windows = (AT_ONCE_S, AT_ONCE_S)
            elif role == "blower":
                windows = ([1, 20], [60, 110])
            elif role == "auxiliary":
                windows = (STACK_ON_S[1], STACK_OFF_S[1])
            else:
                place = min(stage, 3)
                windows, stage = (STACK_ON_S[place], STACK_OFF_S[place]), stage + 1
            yield from _windows(switch, ("controls", n, "switches", k), *windows)
    for n, limit in enumerate(plate.get("limits", [])):
        if (limit.get("opens_f"), limit.get("closes_f")) == (170, 140):
            yield "limits", n, "opens_f"
            yield "limits", n, "closes_f"
    blower = plate.get("blower") or {}
    if relay := blower.get("relay"):
        yield from _as_kit(relay, ("blower", "relay"), *RELAY_COIL)
        windows = RELAY_WINDOWS.get(relay["type"], (AT_ONCE_S, AT_ONCE_S))
        yield from _windows(relay, ("blower", "relay"), *windows)
    tie = blower.get("interlock") or {}
    firsts = [control["switches"][0]["id"] for control in plate.get("controls", [])[:1]]
    if tie.get("kind") == "nc-contact" and [tie.get("tap")] == firsts:
        yield "blower", "interlock", "tap"


def _as_kit(device: dict[str, Any], path: Path, ohms: list[int], va: int) -> Iterator[Path]:
    coil = device.get("coil") or {}
    if coil.get("ohms") == ohms:
        yield *path, "coil", "ohms"
    if coil.get("va") == va:
        yield *path, "coil", "va"


def _windows(part: dict[str, Any], path: Path, on_s: list[int], off_s: list[int]) -> Iterator[Path]:
    if part.get("on_s") == on_s:
        yield *path, "on_s"
    if part.get("off_s") == off_s:
        yield *path, "off_s"


def _leave_out(plate: Any, path: Path) -> None:
    for key in path[:-1]:
        plate = plate[key]
    del plate[path[-1]]
