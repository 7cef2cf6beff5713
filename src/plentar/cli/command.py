"""What all commands share: their help with an example, their options, and how input is refused.

Input that is bad ends in one line ``file: json-path: reason`` on standard error and exit code 2.
"""

from __future__ import annotations

import getpass
import os
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any, TypeVar

import click

from plentar.core.errors import BadInput, PlentarError
from plentar.files.visit_file import VisitFile, parse_visit_file
from plentar.words import phrase

F = TypeVar("F", bound=Callable[..., Any])


class Refused(click.ClickException):
    """Bad input, said in one line: in which file, at which path, why."""

    exit_code = 2

    def __init__(self, name: str, bad: BadInput) -> None:
        super().__init__(f"{name}: {bad.path or '$'}: {bad.reason}")

    def show(self, file: Any = None) -> None:
        """The line alone, without click's own word before it."""
        click.echo(self.message, err=True)


class Failed(click.ClickException):
    """Something that Plentar raises on purpose, and that is nobody's input."""

    exit_code = 1

    def show(self, file: Any = None) -> None:
        """One line, by the program's own name."""
        click.echo(f"plentar: {self.message}", err=True)


@contextmanager
def refusing(name: str) -> Iterator[None]:
    """What is wrong inside is said of this file or option."""
    try:
        yield
    except BadInput as bad:
        raise Refused(name, bad) from None
    except OSError as error:
        raise Refused(name, BadInput("", error.strerror or phrase("cli.command.cant-read"))) from None
    except PlentarError as error:
        raise Failed(str(error)) from None


@contextmanager
def failing() -> Iterator[None]:
    """What Plentar raises on purpose inside is one line, and the exit code 1."""
    try:
        yield
    except PlentarError as error:
        raise Failed(str(error)) from None


def command(example: str, **options: Any) -> Callable[[F], click.Command]:
    """A command whose help ends with an example; its docstring is the help."""
    called = (
        "./plentar"
        if "PLENTAR_HOME" in os.environ and Path(os.environ["PLENTAR_HOME"], "plentar").is_file()
        else "plentar"
    )
    return click.command(epilog=f"Example: {called} {example}", **options)


def typed_password() -> str:
    """A password, asked for where somebody sits, else the first line of the pipe."""
    return getpass.getpass() if sys.stdin.isatty() else sys.stdin.readline().rstrip("\n")


def read_bytes(name: str) -> bytes:
    """A file's bytes; Refused if it can't be read."""
    with refusing(name):
        return Path(name).read_bytes()


def read_visit(name: str) -> VisitFile:
    """A checked visit file; Refused with the path and the reason."""
    with refusing(name):
        return parse_visit_file(read_bytes(name))


visit_argument = click.argument("file", metavar="FILE")
fault_option = click.option(
    "--fault", "faults", multiple=True, metavar="ID", help="A fault of the unit; may be repeated."
)
json_option = click.option("--json", "as_json", is_flag=True, help="Print it as JSON.")
