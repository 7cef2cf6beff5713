"""A real server and Debian's Chromium."""

from __future__ import annotations

import os
import signal
import subprocess
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, expect, sync_playwright

from plentar.store.cluster import free_port

HOME = Path(__file__).resolve().parents[3]
ARGUMENTS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-sync",
    "--disable-background-networking",
    "--disable-component-update",
]
DESK = {"width": 1280, "height": 800}
PHONE = {"width": 390, "height": 844}
#: A busy machine takes its time; what does not come at all still fails.
expect.set_options(timeout=60_000)


@pytest.fixture(scope="session")
def base(start_server: Callable[[int], subprocess.Popen[bytes]]) -> Iterator[str]:
    port = free_port()
    server = start_server(port)
    yield f"http://127.0.0.1:{port}"
    os.killpg(server.pid, signal.SIGTERM)
    server.wait()


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        opened = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
        yield opened
        opened.close()


@pytest.fixture
def context(browser: Browser) -> Iterator[BrowserContext]:
    """Without the service worker, which each new context would install; its own tests have it."""
    made = browser.new_context(viewport=DESK, accept_downloads=True, service_workers="block")
    yield made
    made.close()


@pytest.fixture
def page(context: BrowserContext) -> Iterator[Page]:
    """A page whose script errors and blocked requests fail the test that uses it."""
    opened = context.new_page()
    opened.set_default_timeout(60_000)
    complaints: list[str] = []
    opened.on("pageerror", lambda error: complaints.append(f"script error: {error}"))
    opened.on("console", lambda said: complaints.append(said.text))
    yield opened
    policy = [c for c in complaints if "Content Security Policy" in c or "script error" in c]
    assert not policy, policy


def sign_in(page: Page, base: str, login: str, password: str) -> None:
    page.goto(f"{base}/sign-in")
    page.locator("#login").fill(login)
    page.locator("#password").fill(password)
    page.locator("#password").press("Enter")
    page.wait_for_url(f"{base}/")


@pytest.fixture
def start_visit() -> Callable[[Page, str], None]:
    """Starts a visit from the unit's page."""

    def start(page: Page, complaint: str = "Not enough heat") -> None:
        page.get_by_label("Reason for the call").select_option(label=complaint)
        page.get_by_role("button", name="Start a visit").click()
        expect(page.locator("#bench")).to_be_visible()

    return start
