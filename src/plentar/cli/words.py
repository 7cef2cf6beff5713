"""plentar words: bring the catalogues of the other languages to the tables of English."""

from __future__ import annotations

import click

from plentar.cli.command import Failed, command
from plentar.words.catalogue import faults, others, renew


@command("words")
@click.option("--check", is_flag=True, help="Say what is wrong with them instead; change nothing.")
def words(check: bool) -> None:
    """Renew the catalogues after a change of a text; then translate what is empty in them, and run it again."""
    for language in others():
        if check:
            wrong = list(faults(language))
            if wrong:
                raise Failed(
                    "\n".join([*wrong[:20], f"{language}: {len(wrong)} texts; run: python -m plentar words"])
                )
        else:
            click.echo(f"{language}: {renew(language)} to translate")
