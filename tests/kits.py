"""Units for tests: starting kits whose parts have been read, as the demo's have."""

from __future__ import annotations

from plentar.core.unit import kits
from plentar.core.unit.kits import Kit
from plentar.core.unit.unit import Unit
from plentar.core.unit.usual_print import as_usually_printed

__all__ = ["Kit", "build_kit"]


def build_kit(kit: Kit, unit_id: str, label: str) -> Unit:
    """The unit of a kit, everything on its parts printed as usual."""
    return as_usually_printed(kits.build_kit(kit, unit_id, label))
