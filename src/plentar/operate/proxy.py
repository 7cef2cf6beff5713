"""The configuration of the proxy in front, with this installation's names and folders in it, and the pages
on which it says what it refuses by itself."""

from __future__ import annotations

import re
from collections.abc import Iterator
from html import escape
from pathlib import Path

from plentar.core.errors import BadInput
from plentar.web.assets import STATIC
from plentar.web.security import POLICY
from plentar.web.uploads import FORM_BYTES, MOST_ARCHIVE
from plentar.words import phrase
from plentar.words.language import LANGUAGES, speaking

TEMPLATE = Path(__file__).with_name("nginx.conf")
REFUSED = STATIC / "refused"
#: What nginx refuses: too slow, too large, not ours, too often, no Plentar behind it, no answer in time.
CODES = (408, 413, 421, 429, 502, 504)
_NAME = re.compile(r"[a-z0-9]([a-z0-9.-]{0,251}[a-z0-9])?")
_KIB = 1024


def configuration(name: str, port: int, certificate: str, key: str) -> str:
    """nginx's configuration; raises BadInput on a name that is none."""
    if not _NAME.fullmatch(name):
        raise BadInput("name", phrase("operate.proxy.no-name"))
    places = {
        "NAME": name,
        "PORT": str(port),
        "CERTIFICATE": certificate,
        "KEY": key,
        "STATIC": str(STATIC),
        "POLICY": POLICY,
        # Rounded up: Plentar itself says what is too large.
        "ARCHIVE": f"{(MOST_ARCHIVE + FORM_BYTES) // _KIB + 1}k",
    }
    text = TEMPLATE.read_text(encoding="utf-8")
    for place, value in places.items():
        text = text.replace(f"@{place}@", value)
    return text


def refused_pages() -> Iterator[tuple[Path, str]]:
    """Each page and its file: in every language, as a proxy does not know who reads it."""
    for code in CODES:
        said = []
        for language in LANGUAGES:
            with speaking(language):
                title, text = phrase(f"operate.refused.{code}"), phrase(f"operate.refused.{code}.text")
                said.append(
                    f'<section class="sheet problem" lang="{language}"><h1>{escape(title)}</h1>'
                    f"<p>{escape(text)}</p></section>"
                )
        yield (
            REFUSED / f"{code}.html",
            '<!DOCTYPE html>\n<html lang="en"><head><meta charset="utf-8">'
            '<meta name="viewport" content="width=device-width, initial-scale=1">'
            f"<title>Plentar: {code}</title>"
            '<link rel="stylesheet" href="/static/plentar.css"></head>\n'
            f'<body><main id="main" class="grid gap-4">{"".join(said)}</main></body></html>\n',
        )
