"""Configuration from the environment; a bad one stops the start with the reason."""

from __future__ import annotations

import os
from collections.abc import Mapping
from dataclasses import dataclass

from plentar.core.errors import PlentarError
from plentar.store.photo_room import NoRoom, room_at
from plentar.web.guard import LOOPBACK

LEAST_KEY = 32


class BadConfiguration(PlentarError):
    """The environment does not say what the application needs."""


@dataclass(frozen=True, slots=True)
class Config:
    database_url: str
    secret_key: str
    secure_cookies: bool = False
    demo: bool = False
    #: The names that it is called by, and the proxies whose forwarded headers count.
    hosts: tuple[str, ...] = LOOPBACK
    proxies: tuple[str, ...] = ()
    #: What the photos of one shop may take, MB.
    photo_mb: float = 500.0
    #: Where old photos lie: file:///FOLDER or s3://KEY:SECRET@HOST/BUCKET; empty for the database.
    photo_room: str = ""
    #: The folder whose disk the leads are told of; empty where that is not this machine's to know.
    disk: str = ""
    #: The judge answers in the server's own process: for tests, which ask one at a time.
    judge_here: bool = False

    def __post_init__(self) -> None:
        if not self.database_url.startswith("postgresql+psycopg://"):
            raise BadConfiguration("PLENTAR_DATABASE_URL must begin with postgresql+psycopg://")
        if len(self.secret_key) < LEAST_KEY:
            raise BadConfiguration("PLENTAR_SECRET_KEY must have at least 32 characters")
        if not 0 <= self.photo_mb <= 1e6:
            raise BadConfiguration("PLENTAR_PHOTO_MB must be from 0 to 1000000")
        try:
            room_at(self.photo_room)
        except NoRoom as bad:
            raise BadConfiguration(str(bad)) from None


def from_environment(env: Mapping[str, str] = os.environ) -> Config:
    """The configuration that the environment holds; raises BadConfiguration."""
    missing = [n for n in ("PLENTAR_DATABASE_URL", "PLENTAR_SECRET_KEY") if not env.get(n)]
    if missing:
        raise BadConfiguration(f"{missing[0]} is not set")
    return Config(
        database_url=env["PLENTAR_DATABASE_URL"],
        secret_key=env["PLENTAR_SECRET_KEY"],
        secure_cookies=env.get("PLENTAR_SECURE_COOKIES") == "1",
        demo=env.get("PLENTAR_DEMO") == "1",
        hosts=(*LOOPBACK, *_listed(env, "PLENTAR_HOSTS")),
        proxies=_listed(env, "PLENTAR_PROXIES"),
        photo_room=env.get("PLENTAR_PHOTO_ROOM", ""),
        disk=env.get("PLENTAR_DISK", ""),
        photo_mb=_number(env, "PLENTAR_PHOTO_MB", 500.0),
    )


def _number(env: Mapping[str, str], name: str, otherwise: float) -> float:
    typed = env.get(name, "").strip()
    try:
        return float(typed) if typed else otherwise
    except ValueError:
        raise BadConfiguration(f"{name} must be a number") from None


def _listed(env: Mapping[str, str], name: str) -> tuple[str, ...]:
    return tuple(part.strip() for part in env.get(name, "").split(",") if part.strip())
