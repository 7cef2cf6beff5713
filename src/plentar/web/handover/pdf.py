"""A sheet as tagged PDF, with its own fonts in it. Nothing is fetched: a sheet holds its pictures."""

from __future__ import annotations

import logging
from pathlib import Path
from threading import Lock
from typing import Any

from flask import current_app

#: One at a time: laying out a sheet takes a second of a processor.
_ONE = Lock()
#: It remarks on each line of a style sheet that browsers alone understand.
logging.getLogger("weasyprint").setLevel(logging.CRITICAL)


def sheet_pdf(html: str) -> bytes:
    """The page as PDF/UA. Whatever is not in the page or among the application's own fonts is refused."""
    # Loading it takes a second and some memory, and most processes never make a sheet.
    from weasyprint import CSS, HTML  # noqa: PLC0415
    from weasyprint.text.fonts import FontConfiguration  # noqa: PLC0415
    from weasyprint.urls import URLFetcher  # noqa: PLC0415

    static = Path(current_app.static_folder or "")

    class OwnFiles(URLFetcher):  # type: ignore[misc]
        """Pictures in the page, fonts beside the style sheet."""

        def fetch(self, url: str, headers: Any = None) -> Any:
            own = url.startswith(("data:", (static / "fonts").as_uri() + "/"))
            if not own or ".." in url:
                raise ValueError("a sheet fetches nothing")
            return super().fetch(url, headers)

    fetcher = OwnFiles(allowed_protocols=("data", "file"))
    fonts = FontConfiguration()
    css = CSS(filename=static / "sheet.css", font_config=fonts, url_fetcher=fetcher)
    with _ONE:
        made: bytes = HTML(string=html, url_fetcher=fetcher).write_pdf(
            stylesheets=[css], font_config=fonts, pdf_variant="pdf/ua-1"
        )
    return made
