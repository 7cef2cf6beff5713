"""The texts of handover."""

from __future__ import annotations

from collections.abc import Mapping

TEXTS: Mapping[str, str | tuple[str, str]] = {
    "work.decided": "{cause!c}",
    "work.fellow": "Offer: replace {part} too; it is as old as {mate} was.",
    "handover.asked-once.was-off-what-tripped": "{part!c} was off: what tripped it, or who switched it off?",
    "handover.asked-once.was-reset-what-tripped": "{part!c} was reset: what tripped it? A trip has a cause further on.",
    "handover.asked-once.was-renewed-what-blew": "{part!c} was renewed: what blew it? A fuse has a cause further on.",
    "handover.meanwhile-ways.off": "{named!c} off: {wires}; {drawn}",
    "handover.meanwhile-ways.heat-pump-only": "heat pump only",
    "handover.meanwhile-ways.no-electric-heat": "no electric heat",
    "handover.meanwhile-ways.wire-off-board-capped": "{rest!c}: wire {wires} off the board, capped",
    "handover.meanwhile-ways.left-off-off-breaker": "Left off: {breakers} off at the breaker, tagged",
    "handover.meanwhile-ways.wire-off-capped": "its wire off {firsts}, capped",
    "handover.meanwhile-ways.wires-off-capped": "its wires off, capped",
    "handover.meanwhile-ways.at": "{elements} at {name}",
    "handover.meanwhile-ways.then-others-draw": "the others then draw {drawn}",
}
