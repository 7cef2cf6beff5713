"""How likely each single fault is before anything was read, and what a repair does to that."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from plentar.core.circuit.network import Real
from plentar.core.history.shop import kind_of
from plentar.core.judge.shown.complaints import CHECK_UP
from plentar.core.judge.shown.workspace import Workspace
from plentar.core.judge.weigh.likelihood import ItemLikelihood
from plentar.core.tables.assumptions import LOOK_WEIGHS, REPLACED_SHARE
from plentar.core.tables.faults import HEALTHY_AFTER_REPAIR, HEALTHY_ON_CHECK_UP
from plentar.core.visit.evidence import Evidence


@dataclass(frozen=True, slots=True)
class OldPart:
    """How a part that was mended since explains an item: log likelihoods (supplies,)."""

    log: Real
    bad_day: Real
    explained: bool


def priors_of(evidence: Evidence, workspace: Workspace) -> Real:
    """Of every single hypothesis, as relative frequencies, before complaint and readings."""
    priors = np.array([h.weight for h in workspace.singles.hypotheses])
    for mode, factor in _seen(evidence):
        for n, hypothesis in enumerate(workspace.singles.hypotheses):
            if any(fault.mode == mode for fault in hypothesis.faults):
                priors[n] *= factor
    for kind, factor in evidence.visit.settings.frequencies:
        for n, hypothesis in enumerate(workspace.singles.hypotheses):
            if any(kind_of(evidence.unit, fault) == kind for fault in hypothesis.faults):
                priors[n] *= factor
    replaced = {event.mended for event in evidence.visit.events if event.mended}
    if replaced:
        priors[0] += HEALTHY_AFTER_REPAIR  # what was wrong may be mended
    for n, hypothesis in enumerate(workspace.singles.hypotheses):
        if any(_is_of(evidence, fault.component, replaced) for fault in hypothesis.faults):
            priors[n] *= REPLACED_SHARE
    if evidence.visit.complaint == CHECK_UP:
        priors[0] = max(priors[0], HEALTHY_ON_CHECK_UP * float(priors[1:].sum()))
    return priors


def _seen(evidence: Evidence) -> Iterator[tuple[str, float]]:
    """What the look around says: a mode of fault, and how much likelier it is by that; the newest word
    on each item counts, and of several of one kind the one that says most."""
    newest = {seen.item: seen.state for seen in evidence.visit.looked}
    said: dict[str, list[float]] = {}
    for item, state in newest.items():
        if item in LOOK_WEIGHS:
            mode, poor, fine = LOOK_WEIGHS[item]
            said.setdefault(mode, []).append(fine if state == "fine" else poor)
    for mode, factors in said.items():
        yield mode, max(factors)


def _is_of(evidence: Evidence, component: str, replaced: Collection[str]) -> bool:
    control = evidence.unit.control_of_switch.get(component)
    return component in replaced or (control is not None and control.id in replaced)


def with_old_parts(
    evidence: Evidence, workspace: Workspace, items: Sequence[ItemLikelihood]
) -> list[OldPart | None]:
    """What each item may be explained by beside a suspect: what was wrong with a part mended since.

    Of each part that was mended after it the likeliest fault, by what was read before; of several
    parts, which each may have been bad, the one that explains the item best.
    """
    since = [evidence.mended_after(item.event, item.t_s) for item in items]
    old: dict[frozenset[str], list[int]] = {}
    for parts in set(since):
        before = [item for item, later in zip(items, since, strict=True) if parts <= later]
        found = (_old_fault(evidence, workspace, before, part) for part in sorted(parts))
        old[parts] = [variant for variant in found if variant is not None]
    return [
        _explained_by(item, old[parts]) if old[parts] else None
        for item, parts in zip(items, since, strict=True)
    ]


def _old_fault(
    evidence: Evidence, workspace: Workspace, before: Sequence[ItemLikelihood], part: str
) -> int | None:
    """The variant that was likeliest wrong with a part; None where nothing can be."""
    of_part = [
        v
        for v, variant in enumerate(workspace.singles.variants)
        if any(_is_of(evidence, f.component, {part}) for f in variant.clock)
    ]
    if not of_part:
        return None
    log = np.sum([item.log[of_part].max(axis=1) for item in before], axis=0)
    return of_part[int(np.argmax(log + np.log(workspace.singles.shares[of_part])))]


def _explained_by(item: ItemLikelihood, variants: Sequence[int]) -> OldPart:
    log, bad_day = item.log[variants].max(axis=0), item.bad_day[variants].max(axis=0)
    return OldPart(log, bad_day, bool(item.explained[variants].any()))


def beside_old(items: Sequence[ItemLikelihood], old: Sequence[OldPart | None]) -> list[ItemLikelihood]:
    """The items, those from before a repair explained by the suspect or by the old part, whichever
    does it better: what the old part explains speaks for no other."""
    return [
        item
        if part is None
        else replace(
            item,
            log=np.maximum(item.log, part.log),
            bad_day=np.maximum(item.bad_day, part.bad_day),
            explained=item.explained | part.explained,
        )
        for item, part in zip(items, old, strict=True)
    ]
