"""One log, a line of JSON an event on the error stream: requests, sign-ins, crashes, the server's own words.

At a terminal the same lines are read by people, and are written for them.
"""

from __future__ import annotations

import logging
import os
import sys
from typing import Any

import structlog

LEVEL = "PLENTAR_LOG_LEVEL"
_SHARED: list[Any] = [
    structlog.contextvars.merge_contextvars,
    structlog.stdlib.add_log_level,
    structlog.stdlib.ExtraAdder(),
    structlog.processors.TimeStamper(fmt="iso", utc=True, key="time"),
]


def set_up() -> None:
    """Every logger of this process writes to the one log, from the level that PLENTAR_LOG_LEVEL names on."""
    people_read = sys.stderr.isatty()
    written: list[Any] = (
        [structlog.dev.ConsoleRenderer()]
        if people_read
        else [structlog.processors.format_exc_info, structlog.processors.JSONRenderer()]
    )
    handler = logging.StreamHandler()
    handler.setFormatter(
        structlog.stdlib.ProcessorFormatter(
            foreign_pre_chain=[*_SHARED, structlog.stdlib.add_logger_name],
            processors=[structlog.stdlib.ProcessorFormatter.remove_processors_meta, *written],
        )
    )
    root = logging.getLogger()
    root.handlers = [handler]
    root.setLevel(os.environ.get(LEVEL, "info").upper())
    server = logging.getLogger("gunicorn.error")
    server.handlers, server.propagate = [], True
    structlog.configure(
        processors=[*_SHARED, structlog.stdlib.ProcessorFormatter.wrap_for_formatter],
        logger_factory=structlog.stdlib.LoggerFactory(),
        wrapper_class=structlog.stdlib.BoundLogger,
        cache_logger_on_first_use=True,
    )
