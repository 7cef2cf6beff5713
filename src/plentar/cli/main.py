"""The commands and the one group over them. A command's module is loaded when it is asked for."""

from __future__ import annotations

import gc
import sys
from collections.abc import Sequence
from importlib import import_module
from importlib.util import find_spec

import click

#: What is for the desk stands beside the package, in a checkout.
BENCH, SHOTS = "benchmarks.command", "benchmarks.shots"
#: Each command, the module that it is in, and its line in the list.
COMMANDS = {
    "demo": ("serve", "Serve the application with demo data."),
    "serve": ("serve", "Serve the application."),
    "stop": ("serve", "End what serves here."),
    "backup": ("operate", "Everything as one archive, while people write."),
    "restore": ("operate", "A backup into an empty database, compared."),
    "upgrade": ("operate", "Bring the database to this program."),
    "downgrade": ("operate", "Bring it back to an earlier release."),
    "part-demo": ("operate", "Take the demo out of a shop's database."),
    "proxy": ("proxy", "The configuration of the proxy in front."),
    "photos": ("photos", "Old photos to a folder or bucket, and back."),
    "doctor": ("operate", "Look at the installation, and say what to do."),
    "shop": ("shop", "Make a shop and its first account."),
    "password": ("password", "Set the password of an account that has lost its own."),
    "archive": ("archive", "A shop's data as one archive, out and in."),
    "judge": ("judge", "Judge a visit file."),
    "predict": ("predict", "What every meter would read, as JSON."),
    "netlist": ("predict", "The same circuit as a SPICE deck."),
    "size": ("size", "What each circuit needs, and what would pass."),
    "prove": ("prove", "What the blower relay does as it is wired."),
    "trace": ("trace", "Find the stages in a logged current."),
    "clamp": ("clamp", "A simulated clamp's log, as CSV."),
    "schema": ("schema", "Print the visit file's JSON Schema."),
    "words": ("words", "Renew the catalogues of the other languages."),
    "bench": (BENCH, "Measure speed against floors, and what the judge finds."),
    "shots": (SHOTS, "Take the README's pictures again."),
}


class Commands(click.Group):
    """A group that knows its commands by name and loads one when it is needed."""

    def list_commands(self, ctx: click.Context) -> list[str]:
        """In the order of the table; what is for the desk only where there is one."""
        desk = find_spec(BENCH.partition(".")[0]) is not None
        return [name for name, (module, _) in COMMANDS.items() if desk or "." not in module]

    def get_command(self, ctx: click.Context, cmd_name: str) -> click.Command | None:
        """The command of this name."""
        if cmd_name not in COMMANDS:
            return None
        module, short = COMMANDS[cmd_name]
        name = module if "." in module else f"plentar.cli.{module}"
        gc.disable()  # nothing of what is being loaded is garbage
        try:
            found: click.Command = getattr(import_module(name), cmd_name.replace("-", "_"))
        except ModuleNotFoundError as missing:
            if missing.name != name.partition(".")[0]:
                raise
            raise click.ClickException(f"{cmd_name} needs a checkout of the source") from None
        finally:
            gc.freeze()
            gc.enable()
        found.short_help = short
        return found


@click.group(cls=Commands, context_settings={"help_option_names": ["-h", "--help"]})
def plentar() -> None:
    """Electric-heat checks: due beside measured."""


def run() -> None:
    """The command that an installed package brings."""
    sys.exit(main())


def main(args: Sequence[str] | None = None) -> int:
    """Run one command; its exit code."""
    try:
        plentar.main(args=args, prog_name="plentar", standalone_mode=False)
    except click.ClickException as error:
        error.show()
        return error.exit_code
    except click.exceptions.Exit as done:
        return done.exit_code
    except click.Abort:
        click.echo("stopped", err=True)
        return 1
    sys.stdout.flush()
    return 0
