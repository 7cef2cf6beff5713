"""Hypothesis strategies: any plate, any kit."""

from __future__ import annotations

from hypothesis import strategies as st

from plentar.core.errors import BadInput
from plentar.core.kits import KIT_CONTROLS, KIT_KW, KIT_TIES, KIT_VOLTS, Kit, build_kit
from plentar.core.ratings import Rating
from plentar.core.unit import Unit

ratings = st.builds(
    Rating,
    rated_watts=st.floats(500, 20_000),
    rated_volts=st.sampled_from([208.0, 230.0, 240.0]),
)
volts = st.floats(150, 280)


@st.composite
def kit_units(draw: st.DrawFn) -> Unit:
    """A unit of any starting kit that fits together."""
    kit = Kit(
        tuple(
            draw(st.lists(st.sampled_from([kw * 1000 for kw in KIT_KW]), min_size=1, max_size=4))
        ),
        draw(st.sampled_from(KIT_VOLTS)),
        draw(st.sampled_from(sorted(KIT_CONTROLS))),
        draw(st.sampled_from([1, 2])),
        draw(st.sampled_from(sorted(KIT_TIES))),
    )
    try:
        return build_kit(kit, "any", "Any unit")
    except BadInput:
        return build_kit(Kit(kit.element_watts, kit.rated_volts, kit.control, 1, "none"), "any", "")
