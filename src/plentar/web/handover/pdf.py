"""A sheet as tagged PDF, with its own fonts in it. Nothing is fetched: a sheet holds its pictures.

Laying one out takes a second of a processor, so that it is done in a process beside the server's, which
gives way to all others; readings don't wait for it.
"""

from __future__ import annotations

import logging
from pathlib import Path
from typing import Any

from flask import current_app

from plentar.core.said import say
from plentar.web.beside import ProcessBeside, Share
from plentar.words import phrase

#: Sheets that wait or are laid out; how long one waits, s; after how many the process is made anew.
AT_ONCE, PATIENCE_S, SHEETS = 6, 20.0, 100
#: Somebody waits for a sheet, and of the judge for more than one answer: it goes before the judge.
NICENESS = 10


def sheet_process(*, here: bool) -> ProcessBeside:
    """The process that lays sheets out; ``here`` does it in this one."""
    return ProcessBeside(say("handover.pdf.printer-sheets"), SHEETS, here=here, niceness=NICENESS)


def sheet_pdf(html: str) -> bytes:
    """The page as PDF/UA; raises Busy where others wait already."""
    beside: ProcessBeside = current_app.extensions["plentar_sheets"]
    static = Path(current_app.static_folder or "")
    return beside.ask(Share("sheets", AT_ONCE, AT_ONCE, PATIENCE_S), laid_out, html, static)


def laid_out(html: str, static: Path) -> bytes:
    """The page as PDF/UA, by the style and the fonts in ``static``. Whatever is not in the page or among
    those fonts is refused."""
    # Loading it takes a second and some memory, and most processes never make a sheet.
    from weasyprint import CSS, HTML  # noqa: PLC0415
    from weasyprint.text.fonts import FontConfiguration  # noqa: PLC0415
    from weasyprint.urls import URLFetcher  # noqa: PLC0415

    # It remarks on each line of a style sheet that browsers alone understand.
    logging.getLogger("weasyprint").setLevel(logging.CRITICAL)

    class OwnFiles(URLFetcher):  # type: ignore[misc]
        """Pictures in the page, fonts beside the style sheet."""

        def fetch(self, url: str, headers: Any = None) -> Any:
            own = url.startswith(("data:", (static / "fonts").as_uri() + "/"))
            if not own or ".." in url:
                raise ValueError(phrase("handover.pdf.sheet-fetches-nothing"))
            return super().fetch(url, headers)

    fetcher = OwnFiles(allowed_protocols=("data", "file"))
    fonts = FontConfiguration()
    css = CSS(filename=static / "sheet.css", font_config=fonts, url_fetcher=fetcher)
    made: bytes = HTML(string=html, url_fetcher=fetcher).write_pdf(
        stylesheets=[css], font_config=fonts, pdf_variant="pdf/ua-1"
    )
    return made
