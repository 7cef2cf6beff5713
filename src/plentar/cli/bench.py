"""plentar bench: measure what the project promises of speed, as ratios in one run."""

from __future__ import annotations

import argparse

from plentar.cli.serve import own_database

EXAMPLE = "plentar bench"


def add(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Declare the command."""
    parser = commands.add_parser(
        "bench", help="measure speed against floors", description=__doc__,
        epilog=f"example: {EXAMPLE}",
    )  # fmt: skip
    parser.set_defaults(run=run)


def run(_args: argparse.Namespace) -> int:
    """Print each measurement."""
    from plentar.cli.benchmarks import circuit, reading_post  # noqa: PLC0415
    from plentar.store.database import migrate  # noqa: PLC0415

    url = own_database("bench", "test-postgres")
    migrate(url)
    print("reading post: validate, insert, commit, judge again, draw the fragment")
    for line in reading_post.measure(url):
        print(f"  {line}")
    print("circuit: the unit solved as a network")
    for line in circuit.measure():
        print(f"  {line}")
    return 0
