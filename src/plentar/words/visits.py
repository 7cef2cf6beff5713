"""What a call is about and how a unit is left, in words."""

from __future__ import annotations

from plentar.core.visit.events import COMPLAINTS, OUTCOMES
from plentar.words.spoken import has, phrase


def complaint_in_words(complaint: str | None) -> str:
    return phrase(f"complaint.{complaint}") if complaint else phrase("complaint.none")


def outcome_in_words(outcome: str | None) -> str:
    return phrase(f"outcome.{outcome}") if outcome else phrase("outcome.none")


def finding_in_words(code: str) -> str:
    """A kind of finding; a file may hold one that is not known here."""
    return phrase(f"finding.{code}") if has(f"finding.{code}") else code


def complaints() -> dict[str, str]:
    """Every complaint by its key."""
    return {key: complaint_in_words(key) for key in COMPLAINTS}


def outcomes() -> dict[str, str]:
    """Every way to leave a unit by its key."""
    return {key: outcome_in_words(key) for key in OUTCOMES}


def action_in_words(action: str) -> str:
    """What a part was seen to do: on, off."""
    return phrase(f"action.{action}")
