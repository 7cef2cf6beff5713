"""plentar photos: old ones to a folder or bucket, and back."""

from __future__ import annotations

import os
from datetime import timedelta

import click

from plentar.cli.command import Failed, command, failing
from plentar.cli.installation import shops
from plentar.store.models import now
from plentar.store.photo_room import SETTING, room_at
from plentar.store.photos import move_in, move_out
from plentar.words import phrase


@command("photos --older-than 365")
@click.option("--older-than", type=click.FloatRange(min=0), default=365.0, show_default=True, help="Days.")
@click.option("--bring-back", is_flag=True, help="All that lies there, into the database again.")
def photos(older_than: float, bring_back: bool) -> None:
    """Move old photos out of the database, to the place that PLENTAR_PHOTO_ROOM names."""
    with failing():
        room = room_at(os.environ.get(SETTING, ""))
        if room is None:
            raise Failed(phrase("store.photo-room.no-url", setting=SETTING))
        with shops() as session:
            count, size = (
                move_in(session, room)
                if bring_back
                else move_out(session, room, now() - timedelta(days=older_than))
            )
    click.echo(phrase("cli.photos.moved", n=count, megabytes=f"{size / 1e6:.1f}"))
