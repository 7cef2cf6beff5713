"""The commands, and the one parser over them. Commands import what they need when they run."""

from __future__ import annotations

import argparse

from plentar.cli import bench, clamp, judge, predict, schema, serve, shop, shots, trace

COMMANDS = (serve, judge, predict, trace, clamp, schema, shop, bench, shots)


def parser() -> argparse.ArgumentParser:
    """The whole command line."""
    top = argparse.ArgumentParser(
        prog="plentar", description="Electric-heat checks: due beside measured."
    )
    commands = top.add_subparsers(required=True, metavar="COMMAND")
    for command in COMMANDS:
        command.add(commands)
    return top


def main(argv: list[str] | None = None) -> int:
    """Run one command; its exit code."""
    args = parser().parse_args(argv)
    code: int = args.run(args)
    return code
