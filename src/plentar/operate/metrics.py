"""The figures of an installation for Prometheus, on a port of their own, by a process of their own."""

from __future__ import annotations

import os
import shutil
import threading
from collections.abc import Iterator
from pathlib import Path

from prometheus_client import CollectorRegistry, start_http_server
from prometheus_client.core import GaugeMetricFamily
from prometheus_client.multiprocess import MultiProcessCollector
from prometheus_client.registry import Collector
from sqlalchemy.exc import SQLAlchemyError

from plentar.operate.installation import session_on
from plentar.store.room import database_bytes, photo_bytes


class _Room(Collector):
    """What is asked for when somebody looks: the database, its size, the disk, the photos."""

    def __init__(self, url: str, folder: Path, photo_mb: float) -> None:
        self._url, self._folder, self._photo_mb = url, folder, photo_mb

    def collect(self) -> Iterator[GaugeMetricFamily]:
        """Families of gauges."""
        up = 0.0
        try:
            with session_on(self._url) as session:
                size, photos = database_bytes(session), photo_bytes(session)
                up = 1.0
                yield GaugeMetricFamily("plentar_database_bytes", "The size of the database.", size)
                used = GaugeMetricFamily("plentar_photo_bytes", "Photos, by shop.", labels=["shop"])
                for shop_id, held in photos.items():
                    used.add_metric([str(shop_id)], held)
                yield used
        except SQLAlchemyError:
            pass
        yield GaugeMetricFamily("plentar_database_up", "Whether the database answers.", up)
        yield GaugeMetricFamily(
            "plentar_photo_limit_bytes", "What one shop’s photos may take.", self._photo_mb * 1e6
        )
        disk = shutil.disk_usage(self._folder)
        yield GaugeMetricFamily("plentar_disk_free_bytes", "Free where this installation lies.", disk.free)
        yield GaugeMetricFamily("plentar_disk_bytes", "The size of that disk.", disk.total)


def serve_figures(host: str, port: int, url: str, folder: Path, photo_mb: float) -> None:
    """Answer for as long as this process lives."""
    registry = CollectorRegistry()
    MultiProcessCollector(registry, os.environ["PROMETHEUS_MULTIPROC_DIR"])  # type: ignore[no-untyped-call]
    registry.register(_Room(url, folder, photo_mb))
    start_http_server(port, host, registry)
    threading.Event().wait()
