"""The one executable's Python half: ``python -m plentar COMMAND``."""

from __future__ import annotations

import sys

from plentar.cli.main import main

sys.exit(main())
