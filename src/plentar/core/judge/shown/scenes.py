"""The standing scenes in which every hypothesis is looked at: at rest, heat, heat ended, fan,
cooling, and heat by jumper. Complaints show in them, and the next reading is sought in them.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

from plentar.core.circuit.network import Index
from plentar.core.judge.shown.ensemble import Ensemble
from plentar.core.judge.shown.runs import Partly, Shown, VariantRun
from plentar.core.judge.shown.workspace import Workspace
from plentar.core.tables.assumptions import LEAST_HEAT_S
from plentar.core.unit.parts import HEAT_CALLS
from plentar.core.visit.events import Calls, Event
from plentar.core.visit.state import SETTLED_S, all_off_s, all_on_s


@dataclass(frozen=True)
class Scene:
    """What is called for, and when it is looked at, s after the last change."""

    name: str
    calls: frozenset[str]
    after_s: float
    lifted: bool = False


#: The tie under guard, and when the blower is read there, s.
TIE, TIE_READ_S = "tie", 5.0


class Scenes:
    """Every single hypothesis in the standing scenes of one unit."""

    def __init__(self, workspace: Workspace) -> None:
        self.workspace, self.unit = workspace, workspace.unit
        self.on_s, self.off_s = all_on_s(self.unit), all_off_s(self.unit)
        self._looked: dict[str, Shown] = {}
        self.heat_s = max(LEAST_HEAT_S, 2 * self.on_s)
        heat = self.unit.heat_calls
        started = (Calls(t_s=0, calls=heat),)
        self.ended_s = self.heat_s + 1.0
        self.off_switches: tuple[Event, ...] = (*started, Calls(t_s=self.ended_s, calls=frozenset()))
        fan = self.unit.fan_call
        self.fan_switches: tuple[Event, ...] = (Calls(t_s=0, calls=frozenset({fan})),) if fan else ()
        self.cools = fan is not None and any(load.call == "Y" for load in self.unit.other_loads)
        #: Heat with the fan beside it: what is proposed until the blower was seen to run on heat.
        guarded = heat | {fan} if fan else heat
        self.guarded = guarded
        still = frozenset({fan}) if fan else frozenset[str]()
        self.air_switches: tuple[Calls, Calls] = (
            Calls(t_s=0, calls=guarded),
            Calls(t_s=self.ended_s, calls=still),
        )
        cooling = frozenset({"Y", fan}) if self.cools and fan else frozenset[str]()
        self.cool_switches: tuple[Event, ...] = (Calls(t_s=0, calls=cooling),) if cooling else ()
        #: Heat and fan, then heat alone: whether the tie takes the blower over.
        self.tie_switches = (Calls(t_s=0, calls=guarded), Calls(t_s=self.ended_s, calls=heat))
        self.scenes = {
            scene.name: scene
            for scene in (
                Scene("rest", frozenset(), 0.0),
                Scene("heat", heat, self.on_s),
                Scene("late-heat", heat, self.heat_s),
                Scene("heat-ended", frozenset(), self.off_s),
                Scene("jumper", heat, self.on_s, lifted=True),
                Scene("heat-air", guarded, self.on_s),
                Scene("late-heat-air", guarded, self.heat_s),
                Scene("heat-ended-air", still, self.off_s),
                Scene("jumper-air", guarded, self.on_s, lifted=True),
                *([Scene("fan", frozenset({fan}), SETTLED_S)] if fan else []),
                *([Scene(TIE, heat, TIE_READ_S)] if fan and heat else []),
                # By then heat that cooling brings has come.
                *([Scene("cooling", cooling, self.on_s)] if cooling else []),
            )
        }

    #: They stay as long as the workspace, which counts the runs of the ensembles.
    held_bytes = 0

    def clear(self) -> None:
        """Nothing here is worked out again soon."""

    @cached_property
    def singles(self) -> SceneRuns:
        """The scenes of every single hypothesis."""
        return SceneRuns(self, self.workspace.singles)

    def of(self, ensemble: Ensemble) -> SceneRuns:
        """The scenes of other hypotheses, kept with them."""
        if ensemble is self.workspace.singles:
            return self.singles
        return ensemble.shelves.of(SceneRuns, lambda: SceneRuns(self, ensemble))

    def look(self, name: str) -> Shown:
        """What every variant of the single hypotheses shows in a scene; read once."""
        if name not in self._looked:
            run, t_s = self.singles.place(name)
            self._looked[name] = run.at(t_s)
        return self._looked[name]


#: The runs of some variants only, which no ensemble keeps.
PARTLY = ("cooling", "jumper", "jumper_air")


class SceneRuns:
    """The runs through the scenes of one ensemble, each worked out when it is asked for."""

    def __init__(self, scenes: Scenes, ensemble: Ensemble) -> None:
        self._scenes, self._ensemble = scenes, ensemble

    @property
    def held_bytes(self) -> int:
        """Of the runs that the ensemble does not count itself, B."""
        return sum(run.held_bytes for name, run in vars(self).items() if name in PARTLY)

    def clear(self) -> None:
        """Forget what is worked out again."""
        for name in PARTLY:
            vars(self).pop(name, None)

    @cached_property
    def off(self) -> VariantRun:
        scenes = self._scenes
        return self._ensemble.run(scenes.off_switches, scenes.ended_s + scenes.off_s)

    @cached_property
    def air(self) -> VariantRun:
        """The same with the fan called beside it, and on after it."""
        scenes = self._scenes
        return self._ensemble.run(scenes.air_switches, scenes.ended_s + scenes.off_s)

    @cached_property
    def tie(self) -> VariantRun:
        """Heat alone, the fan's call just ended."""
        scenes = self._scenes
        return self._ensemble.run(scenes.tie_switches, scenes.ended_s + TIE_READ_S)

    @cached_property
    def fan(self) -> VariantRun:
        """The fan alone."""
        return self._ensemble.run(self._scenes.fan_switches, self._scenes.on_s)

    @cached_property
    def cooling(self) -> VariantRun:
        """Cooling: run for those that cooling tells from the fan, the others as with the fan."""
        calling = frozenset({"thermostat.Y"})
        return self._partly(self._scenes.cool_switches, {"Y", "R"}, self.fan, calling)

    @cached_property
    def jumper(self) -> VariantRun:
        """Heat by jumper: tells the thermostat's faults from the others."""
        lifted = (Calls(t_s=0, calls=self._scenes.unit.heat_calls, lifted=True),)
        return self._partly(lifted, {*HEAT_CALLS, "G"}, self.off)

    @cached_property
    def jumper_air(self) -> VariantRun:
        """The same with the fan."""
        lifted = (Calls(t_s=0, calls=self._scenes.air_switches[0].calls, lifted=True),)
        return self._partly(lifted, {*HEAT_CALLS, "G"}, self.air)

    def _partly(
        self,
        switched: tuple[Event, ...],
        parts: set[str],
        like: VariantRun,
        closing: frozenset[str] = frozenset(),
    ) -> VariantRun:
        unit = self._scenes.unit
        loads = {load.id for load in unit.other_loads} if "Y" in parts else set()
        asked = parts | loads
        joined = {"with-Y"} if "Y" in parts else set()
        some = {
            v
            for v, variant in enumerate(self._ensemble.variants)
            if any(fault.component in asked or fault.mode in joined for fault in variant.clock)
        }
        return self._ensemble.run_partly(switched, like.until_s, Partly(like, some, closing))

    def place(self, name: str) -> tuple[VariantRun, float]:
        """The run that a scene is in, and when. The end of the heat lies behind all others."""
        scenes = self._scenes
        after_s = scenes.scenes[name].after_s
        if name in ("rest", "heat", "late-heat"):
            return self.off, {"rest": -1.0, "late-heat": scenes.heat_s}.get(name, after_s)
        if name == "heat-ended":
            return self.off, scenes.ended_s + after_s
        if name in ("heat-air", "late-heat-air"):
            return self.air, after_s
        if name == TIE:
            return self.tie, scenes.ended_s + after_s
        if name == "heat-ended-air":
            return self.air, scenes.ended_s + after_s
        run: VariantRun = {
            "fan": lambda: self.fan,
            "cooling": lambda: self.cooling,
            "jumper": lambda: self.jumper,
            "jumper-air": lambda: self.jumper_air,
        }[name]()
        return run, after_s


def scenes_of(workspace: Workspace) -> Scenes:
    """The scenes of a unit, worked out once."""
    return workspace.shelves.of(Scenes, lambda: Scenes(workspace))


def first_corner(shown: Shown) -> Index:
    """The rows of each variant's first corner."""
    rows: Index = shown.rows[:, :, 0]
    return rows
