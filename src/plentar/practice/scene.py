"""A scene: a plate, what is hidden in a specimen of it, and what the caller says. The same seed is the same scene."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from random import Random
from typing import Any

from plentar.core.visit.events import COMPLAINTS
from plentar.stand_ins.wider.specimen import THERMAL, Plate, faults_of, filled
from plentar.stand_ins.wider.world import HiddenUnit

MOST_FAULTS = 2
#: A caller tells something else than what is so this often.
TOLD_WRONGLY = 0.1
#: What a caller may say of a unit in which nothing is wrong.
SAID_OF_SOUND = ("check-up", "not-enough-heat", "slow-to-start", "blower-will-not-stop")
CHECK_UP = "check-up"
#: The kind of fault of a unit in which nothing is wrong.
SOUND = "sound"


@dataclass(frozen=True, slots=True)
class Scene:
    """``plate`` as the visit file writes it, ``faults`` by the ids that the judge has for them."""

    plate: Mapping[str, Any]
    faults: tuple[str, ...]
    seed: str
    complaint: str

    @property
    def unit(self) -> HiddenUnit:
        return HiddenUnit(self.plate, self.faults, self.seed)


def _of_devices(plate: Plate, *, thermal: bool) -> frozenset[str]:
    devices = [c for c in plate["controls"] if (c["type"] in THERMAL) == thermal]
    return frozenset(name for c in devices for name in (c["id"], *(s["id"] for s in c["switches"])))


def _relays(plate: Plate, component: str) -> bool:
    relay = ((plate.get("blower") or {}).get("relay") or {}).get("id")
    return component == relay or component in _of_devices(plate, thermal=False)


#: By theme: whether a fault, by its component and mode, belongs to it on this plate.
THEMES: Mapping[str, Callable[[Plate, str, str], bool]] = {
    "any": lambda plate, component, mode: True,
    "strips": lambda plate, component, mode: (
        component.split(".")[0] in {e["id"] for e in plate["elements"]}
        or component in {x["id"] for x in plate["links"]}
    ),
    "sequencers": lambda plate, component, mode: component in _of_devices(plate, thermal=True),
    "relays": lambda plate, component, mode: _relays(plate, component),
    "feed": lambda plate, component, mode: component in {c["id"] for c in plate["circuits"]},
    "control": lambda plate, component, mode: (
        component in ("transformer", "control-fuse", "R", "W1", "W2", "G", "Y")
    ),
    "airflow": lambda plate, component, mode: (
        component in ("airflow", "blower") or component in {x["id"] for x in plate["limits"]}
    ),
    "wiring": lambda plate, component, mode: component.endswith(".wire") or mode in ("with-Y", "with-G"),
}


def drawn(plate: Plate, theme: str, count: int, kind: str, seed: str) -> Scene | None:
    """By what a form or a file says; None where this plate can have no fault of the kind."""
    if kind == SOUND:
        return draw(plate, theme, 0, seed)
    scene = draw(plate, "any" if kind else theme, 1 if kind else count, seed, kind)
    return None if kind and not scene.faults else scene


def draw(plate: Plate, theme: str, count: int, seed: str, kind: str = "") -> Scene:
    """A scene with so many faults of a theme, and of a kind where one is named, each of which somebody would call
    about. Where the plate has too few of them there are fewer."""
    plate = filled(plate)
    dice = Random(f"{plate['id']}/{seed}/scene")
    fits = THEMES[theme]
    known = [(fault, *fault.partition(":")[::2]) for fault in faults_of(plate)]
    choice = [
        fault for fault, component, mode in known if fits(plate, component, mode) and kind in ("", mode)
    ]
    dice.shuffle(choice)
    faults: list[str] = []
    for fault in choice:
        if len(faults) == count:
            break
        alone = HiddenUnit(plate, [fault], seed)
        parts = {alone.work_on(known) for known in faults}
        if alone.work_on(fault) not in parts and alone.complaints:
            faults.append(fault)
    return Scene(plate, tuple(faults), seed, _told(plate, faults, seed, dice))


def _told(plate: Plate, faults: list[str], seed: str, dice: Random) -> str:
    if not faults:
        return dice.choice(SAID_OF_SOUND)
    if dice.random() < TOLD_WRONGLY:
        return dice.choice(sorted(set(COMPLAINTS) - {CHECK_UP}))
    return dice.choice(sorted(HiddenUnit(plate, faults, seed).complaints) or [CHECK_UP])
