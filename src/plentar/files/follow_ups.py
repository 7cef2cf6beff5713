"""Lines of work that have a day, as iCalendar."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime, timedelta

from plentar.core.handover.work import WorkLine
from plentar.words import phrase


def follow_ups(where: str, lines: Iterable[WorkLine], uid: str, made_at: datetime) -> str:
    """An event of a whole day for each open line with a day; ``uid`` ends their ids, so that the same
    line taken in again is the same event."""
    from icalendar import Calendar, Event  # noqa: PLC0415  (the zones of the world are loaded with it)

    calendar = Calendar()
    calendar.add("prodid", "-//Plentar//visit//EN")
    calendar.add("version", "2.0")
    for line in lines:
        if line.due_on is None or not line.open:
            continue
        event = Event()
        event.add("uid", f"{line.id}.{uid}")
        event.add("dtstamp", made_at)
        event.add("dtstart", line.due_on)
        event.add("dtend", line.due_on + timedelta(days=1))
        event.add("summary", f"{where}: {line.text}")
        event.add("location", where)
        said = [
            phrase(f"parts.{line.parts}") if line.parts else "",
            phrase("files.follow-ups.meanwhile", meanwhile=line.meanwhile) if line.meanwhile else "",
        ]
        event.add("description", "\n".join(filter(None, said)))
        calendar.add_component(event)
    return str(calendar.to_ical().decode())
