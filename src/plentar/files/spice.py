"""A solved network as a SPICE deck, so that anybody can check the solver."""

from __future__ import annotations

import cmath
import math

from plentar.core.circuit.network import Solution

FREQUENCY_HZ = 60


def deck_name(node: str) -> str:
    """A node's name in the deck: lower case, dots and hyphens as underscores."""
    return "0" if node == "ground" else node.lower().replace(".", "_").replace("-", "_")


def netlist(title: str, solution: Solution) -> str:
    """The deck of one network: 60 Hz AC analysis that prints every node's magnitude."""
    topology = solution.topology
    lines = [f"* {' '.join(title.split())}", f"* {len(topology.nodes)} nodes, no meter"]
    for at, branch in enumerate(topology.branches):
        ohms = f"{1 / solution.siemens[at]:.12g}"
        name = deck_name(branch)
        row = {
            topology.nodes[n]: float(topology.incidence[at, n]) for n in topology.incidence[at].nonzero()[0]
        }
        if branch == "transformer" and len(row) > 2:  # a dead one has no primary to speak of
            lines += _transformer(row, ohms)
            continue
        a = deck_name(next((node for node, sign in row.items() if sign > 0), "ground"))
        b = deck_name(next((node for node, sign in row.items() if sign < 0), "ground"))
        emf = complex(solution.emf[at])
        if emf or ".source." in branch:
            size, degrees = abs(emf), math.degrees(cmath.phase(emf))
            lines.append(f"V{name} {name}_emf {a} DC 0 AC {size:.12g} {degrees:.12g}")
            a = f"{name}_emf"
        lines.append(f"R{name} {a} {b} {ohms}")
    lines += [".control", "set numdgt=12", f"ac lin 1 {FREQUENCY_HZ} {FREQUENCY_HZ}"]
    lines += [f"print mag(v({deck_name(node)}))" for node in topology.nodes]
    lines += ["quit", ".endc", ".end", ""]
    return "\n".join(lines)


def _transformer(row: dict[str, float], ohms: str) -> list[str]:
    """The turns ratio as a controlled source and its reflection in the primary."""
    ratio = max(v for v in row.values() if abs(v) < 0.999)
    p = deck_name(next(n for n, v in row.items() if v == ratio))
    q = deck_name(next(n for n, v in row.items() if v == -ratio))
    c, hot = (deck_name(next(n for n, v in row.items() if v == s)) for s in (1.0, -1.0))
    return [
        f"Etransformer transformer_emf {c} {p} {q} {ratio:.12g}",
        "Vtransformer transformer_emf transformer_sense DC 0",
        f"Ftransformer {p} {q} Vtransformer {ratio:.12g}",
        f"Rtransformer transformer_sense {hot} {ohms}",
    ]
