"""What was done and read on a visit: one class a kind of event, and the visit that holds them.

A new kind is a class here and in ``KINDS``, and a model in ``files/events_json``.
"""

from plentar.core.unit.ratings import Tolerance
from plentar.core.visit.events.calls import Calls
from plentar.core.visit.events.did import (
    BRIDGED,
    DEAD_WORK,
    HANDS_ON,
    MOVED,
    STAGE_OFF,
    STAGE_ON,
    UNBRIDGED,
    VERBS,
    Did,
    bridges_standing,
)
from plentar.core.visit.events.event import Event, Switches
from plentar.core.visit.events.observed import Observed
from plentar.core.visit.events.power import OFF, ON, PROVED_DEAD, Power
from plentar.core.visit.events.reading import DRIVEN, DRIVEN_KINDS, Reading
from plentar.core.visit.events.replaced import Replaced
from plentar.core.visit.events.swap import BACK, LANDED, MOST_WIRES, WIRE_ACTS, SheetWire, Swap, WireMoved
from plentar.core.visit.events.swap import OFF as TAKEN_OFF
from plentar.core.visit.events.tested import FEELS, LEADS, Felt, Tested, Tried
from plentar.core.visit.events.visit import (
    COMPLAINTS,
    LOOK_ITEMS,
    LOOK_STATES,
    OUTCOMES,
    Answered,
    LeftOut,
    Looked,
    Settings,
    Visit,
    check_visit,
    unit_after,
)
from plentar.core.visit.events.wires import LIFTED, RESTORED, Wires

KINDS: tuple[type[Event], ...] = (
    Power,
    Calls,
    Reading,
    Observed,
    Replaced,
    Did,
    Wires,
    Tested,
    Tried,
    Felt,
    Swap,
    WireMoved,
)
