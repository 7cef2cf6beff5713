"""A sheet as tagged PDF, with its own fonts in it. Nothing is fetched: a sheet holds its pictures.

Laying one out takes a second of a processor, so that it is done in a process beside the server's, which
gives way to all others; readings don't wait for it.
"""

from __future__ import annotations

import logging
import os
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures import TimeoutError as NotDone
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass, field
from multiprocessing import get_context
from pathlib import Path
from threading import Lock, Thread
from typing import Any, cast

from flask import current_app

from plentar.store.errors import TooMany
from plentar.web.judge_pool import end_with, step_back

#: Sheets that wait or are laid out; how long one waits, s; after how many the process is made anew.
AT_ONCE, PATIENCE_S, SHEETS = 4, 20.0, 100


@dataclass
class SheetPool:
    """The process that lays sheets out. ``here`` does it in this one."""

    here: bool = False
    _lock: Lock = field(default_factory=Lock)
    _asking: int = 0
    _pool: ProcessPoolExecutor | None = None

    def pdf(self, html: str, static: Path) -> bytes:
        """The page as PDF/UA; raises TooMany where others wait already."""
        if self.here:
            return laid_out(html, static)
        with self._lock:
            if self._asking >= AT_ONCE:
                raise TooMany("other sheets are being laid out; ask again", 3.0)
            self._asking += 1
            if self._pool is None:
                self._pool = ProcessPoolExecutor(1, get_context("spawn"), _begin, max_tasks_per_child=SHEETS)
            pool = self._pool
        try:
            return pool.submit(laid_out, html, static).result(PATIENCE_S)
        except (NotDone, BrokenProcessPool, RuntimeError):
            self.close()
            raise TooMany("the sheet took too long; ask again", 3.0) from None
        finally:
            with self._lock:
                self._asking -= 1

    def close(self) -> None:
        with self._lock:
            if self._pool is not None:
                self._pool.shutdown(wait=False, cancel_futures=True)
            self._pool = None


def sheet_pdf(html: str) -> bytes:
    pool = cast(SheetPool, current_app.extensions["plentar_sheets"])
    return pool.pdf(html, Path(current_app.static_folder or ""))


def _begin() -> None:
    step_back()
    Thread(target=end_with, args=(os.getppid(),), daemon=True).start()


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
                raise ValueError("a sheet fetches nothing")
            return super().fetch(url, headers)

    fetcher = OwnFiles(allowed_protocols=("data", "file"))
    fonts = FontConfiguration()
    css = CSS(filename=static / "sheet.css", font_config=fonts, url_fetcher=fetcher)
    made: bytes = HTML(string=html, url_fetcher=fetcher).write_pdf(
        stylesheets=[css], font_config=fonts, pdf_variant="pdf/ua-1"
    )
    return made
