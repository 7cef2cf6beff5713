"""How property tests run."""

from __future__ import annotations

from hypothesis import HealthCheck, settings

# No test is timed: what a busy machine takes longer for is not wrong.
settings.register_profile("untimed", deadline=None, suppress_health_check=[HealthCheck.too_slow])
#: ./plentar test --quick
settings.register_profile("quick", settings.get_profile("untimed"), max_examples=25)
settings.load_profile("untimed")
