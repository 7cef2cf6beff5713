"""What a visit was called for, and how it was left, in words."""

from __future__ import annotations

from plentar.words.spoken import phrase


def complaint_in_words(complaint: str | None) -> str:
    return phrase(f"complaint.{complaint}") if complaint else phrase("complaint.none")


def outcome_in_words(outcome: str | None) -> str:
    return phrase(f"outcome.{outcome}") if outcome else phrase("outcome.none")
