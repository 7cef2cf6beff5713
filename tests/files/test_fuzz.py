"""Documents bent at random: answered or refused by path, never a crash."""

from __future__ import annotations

import copy
import json
from collections.abc import Iterator
from random import Random
from typing import Any

import pytest

from plentar.core.circuit.faults import faults_of
from plentar.core.circuit.predict import predict
from plentar.core.door import judge
from plentar.core.errors import BadInput
from plentar.core.judge.diagnosis import diagnose
from plentar.files.judgement_json import judgement_to_json
from plentar.files.unit_json import unit_to_json
from plentar.files.visit_file import parse_visit_file
from plentar.store.demo.plates import plates
from tests.cases import CALL, DEAD, VOLTS, amps

ODD = [None, 0, -1, 1e9, "x", "", [], {}, True, "S1.1", "E1", "C1", [1, 2], "OL", 0.5, "W2", "ground"]
EVENTS = [
    VOLTS,
    CALL,
    amps(310, "E1", 20.4),
    {"t": 320, "read": "volts", "at": "S1.1", "value": 0.1},
    *DEAD,
    {"t": 530, "read": "ohms", "at": "E1", "value": 11.2},
]

#: Weighing a unit that was never seen takes a while; every so many documents are.
WEIGHED_EVERY = 20


def documents() -> list[dict[str, Any]]:
    return [
        {
            "format": "plentar-visit",
            "version": 1,
            "unit": unit_to_json(plates()[door]),
            "visit": {"complaint": "no-heat", "events": EVENTS},
        }
        for door in (2, 5, 14)
    ]


def places(node: Any) -> Iterator[tuple[Any, Any]]:
    """Every container with each of its keys."""
    keys = node if isinstance(node, dict) else range(len(node)) if isinstance(node, list) else ()
    for key in keys:
        yield node, key
        yield from places(node[key])


def bend(document: dict[str, Any], rng: Random) -> None:
    """Leave one thing out, say it twice, or put something odd in its place."""
    node, key = rng.choice(list(places(document)))
    action = rng.random()
    if action < 0.3:
        del node[key]
    elif action < 0.45 and isinstance(node, list):
        node.append(copy.deepcopy(rng.choice(node)))
    else:
        node[key] = rng.choice(ODD)


@pytest.mark.slow
def test_bent_documents_are_answered_or_refused():
    rng = Random(20261124)
    originals = documents()
    answered = refused = 0
    for _ in range(1200):
        document = copy.deepcopy(rng.choice(originals))
        for _ in range(rng.randint(1, 2)):
            bend(document, rng)
        try:
            unit, visit = parse_visit_file(json.dumps(document)).to_core()
        except BadInput as bad:
            assert bad.reason
            refused += 1
            continue
        judgement = judge(unit, visit)
        if answered % WEIGHED_EVERY == 0:
            diagnosis = diagnose(judgement.evidence)
            json.dumps(judgement_to_json(judgement, diagnosis), allow_nan=False)
        answered += 1
        if answered % 5 == 0:
            predict(unit, [rng.choice(list(faults_of(unit)))], visit.events, rng.uniform(0, 900))
    assert answered > 50
    assert refused > 500
