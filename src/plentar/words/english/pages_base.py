"""The frame of every page."""

from __future__ import annotations

from collections.abc import Mapping

TEXTS: Mapping[str, str | tuple[str, str]] = {
    "page.base.plentar": "Plentar",
    "page.base.plentar-2": "· Plentar",
    "page.base.skip-content": "Skip to content",
    "page.base.plentar-start-page": "Plentar, start page",
    "page.base.plentar-3": "plentar",
    "page.base.main": "Main",
    "page.base.today": "Today",
    "page.base.board": "Board",
    "page.base.search": "Search",
    "page.base.quick-numbers": "Quick numbers",
    "page.base.help": "Help",
    "page.base.theme-change": "Theme is {theme}; change to {next_theme}",
    "page.base.account": "Account of {account}",
    "page.base.sign-out": "Sign out",
    "page.base.sign-out-2": "sign out",
}
