"""plentar clamp FILE [--fault ID]... [--at POINT]...: a simulated clamp's log of a visit, as CSV.

The visit file's calls and breakers are played; without any, heat is called for from 0:10 on and
ends after --minutes, and the log goes on until everything has let go.
"""

from __future__ import annotations

import argparse
import sys

from plentar.cli.judge import read_text
from plentar.core.errors import BadInput

EXAMPLE = "plentar clamp visit.json --fault S1.2:slow --at C1 --hertz 2"
SAMPLES_AT_MOST = 2_000_000


def add(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Declare the command."""
    parser = commands.add_parser(
        "clamp", help="a simulated clamp's log, as CSV", description=__doc__,
        epilog=f"example: {EXAMPLE}", formatter_class=argparse.RawDescriptionHelpFormatter,
    )  # fmt: skip
    parser.add_argument("file", help="a visit file")
    parser.add_argument("--fault", action="append", default=[], metavar="ID")
    parser.add_argument(
        "--at", action="append", default=[], metavar="POINT", help="default: the feeds"
    )
    parser.add_argument("--minutes", type=float, default=10.0, help="of heat; default 10")
    parser.add_argument("--hertz", type=float, default=2.0, help="samples a second; default 2")
    parser.add_argument("--seed", default="0", help="the unit behind the clamp; default 0")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace) -> int:
    """Exit 0 when answered, 2 when the input is bad."""
    from plentar.core.faults import find_faults  # noqa: PLC0415
    from plentar.core.logged.columns import check_columns  # noqa: PLC0415
    from plentar.files.log_csv import write_log_csv  # noqa: PLC0415
    from plentar.files.visit_file import parse_visit_file  # noqa: PLC0415
    from plentar.stand_ins.heat_call import heat_test, samples  # noqa: PLC0415
    from plentar.stand_ins.logging_clamp import LoggingClamp  # noqa: PLC0415

    try:
        unit, visit = parse_visit_file(read_text(args.file)).to_core()
        faults = [fault.id for fault in find_faults(unit, args.fault)]
        points = args.at or [circuit.id for circuit in unit.circuits]
        check_columns(unit, points)
        events, until_s = heat_test(unit, visit, 60 * args.minutes)
        if not 0 < args.hertz * until_s <= SAMPLES_AT_MOST:
            raise BadInput("--hertz", f"up to {SAMPLES_AT_MOST:,} samples")
    except BadInput as bad:
        print(f"{args.file}: {bad.path or '$'}: {bad.reason}", file=sys.stderr)
        return 2
    clamp = LoggingClamp(unit, faults, points, args.seed)
    sys.stdout.write(write_log_csv(points, samples(clamp, events, until_s, args.hertz, args.seed)))
    return 0
