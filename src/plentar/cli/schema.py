"""plentar schema [--check FILE]: print the visit file's JSON Schema, or check the committed one."""

from __future__ import annotations

from pathlib import Path

import click

from plentar.cli.command import Failed, command
from plentar.files.schema import schema_text, shop_schema_text


@command("schema > docs/visit-file.schema.json")
@click.option("--shop", is_flag=True, help="That of a shop's archive.")
@click.option("--check", type=click.Path(path_type=Path), help="Compare with this file instead.")
def schema(shop: bool, check: Path | None) -> None:
    """Print the visit file's JSON Schema, generated from the code that checks it."""
    text = shop_schema_text() if shop else schema_text()
    if check is None:
        click.echo(text, nl=False)
    elif check.read_text(encoding="utf-8") != text:
        raise Failed(f"{check} is stale; run: ./plentar schema{' --shop' if shop else ''} > {check}")
