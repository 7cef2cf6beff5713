"""plentar bench: measure what the project promises of speed, as ratios in one run."""

from __future__ import annotations

import argparse
from collections.abc import Iterable

from plentar.cli.serve import own_database

EXAMPLE = "plentar bench circuit judging"


MEASURED = {
    "reading": "reading post: validate, insert, commit, judge again, draw the fragment",
    "circuit": "circuit: the unit solved as a network",
    "judging": "judging: suspects and next readings again after one more reading",
    "trace": "trace: stages found in logged currents",
    "episodes": "episodes: hidden faults found by following the judge (some minutes)",
}


def add(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Declare the command."""
    parser = commands.add_parser(
        "bench", help="measure speed against floors, and what the judge finds",
        description=__doc__, epilog=f"example: {EXAMPLE}",
    )  # fmt: skip
    parser.add_argument("what", nargs="*", choices=[[], *MEASURED], help="only these; all if none")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace) -> int:
    """Print each measurement."""
    for name in args.what or MEASURED:
        print(MEASURED[name])
        for line in _lines(name):
            print(f"  {line}", flush=True)
    return 0


def _lines(name: str) -> Iterable[str]:
    from plentar.cli.benchmarks import circuit, episodes, judging, reading_post, trace  # noqa: PLC0415
    from plentar.store.database import migrate  # noqa: PLC0415

    if name == "reading":
        url = own_database("bench", "test-postgres")
        migrate(url)
        return reading_post.measure(url)
    measured = {"circuit": circuit, "judging": judging, "trace": trace, "episodes": episodes}
    return measured[name].measure()
