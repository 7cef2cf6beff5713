"""plentar schema [--check]: print the visit file's JSON Schema, or check the committed one."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

from plentar.files.schema import schema_text

EXAMPLE = "plentar schema > docs/visit-file.schema.json"


def add(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Declare the command."""
    parser = commands.add_parser(
        "schema",
        help="print the visit file's JSON Schema",
        description=__doc__,
        epilog=f"example: {EXAMPLE}",
    )
    parser.add_argument("--check", type=Path, help="compare with this file instead")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace) -> int:
    """Exit 1 when the checked file is stale."""
    if args.check is None:
        sys.stdout.write(schema_text())
        return 0
    if args.check.read_text(encoding="utf-8") == schema_text():
        return 0
    print(f"{args.check} is stale; run: ./{EXAMPLE}", file=sys.stderr)
    return 1
