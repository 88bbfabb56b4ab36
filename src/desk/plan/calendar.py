"""A run sheet as a calendar file (source: rfc5545): runs, hand work and waits, one after the other from a stated hour."""

import hashlib
from datetime import datetime, timedelta
from typing import TYPE_CHECKING

from desk.plan.runsheet import RunSheet, SheetLine
from documents.errors import DocumentError, Fault
from documents.job.models import JobDoc

if TYPE_CHECKING:
    from icalendar import Event

TITLES = {"run": "Run {layout}", "rebuild": "Rebuild to {layout}", "wait": "Wait, {layout}"}
WITHOUT_A_HAND = {"wait"}  # what passes by itself does not block the person's time


def calendar_of(doc: JobDoc, sheet: RunSheet, begins: datetime) -> bytes:
    """Of what is still to be done; it begins with the first line that is not. Raises DocumentError for an hour without its zone."""
    if begins.tzinfo is None:
        raise DocumentError([Fault("begins", "this hour says no zone", "Give it with its offset, as 2026-05-01T18:00:00+02:00.")])
    from icalendar import Calendar  # here: slow to load

    names = {x.id: x.name for x in doc.layouts}
    left = [x for x in sheet.lines if not x.done]
    calendar = Calendar()
    calendar.add("prodid", "-//Oventa//run sheet//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", doc.name)
    at = begins
    for n, line in enumerate(left):
        calendar.add_component(_event(doc, line, names.get(line.layout or "", ""), n, at, begins))
        at += timedelta(minutes=line.minutes)
    return bytes(calendar.to_ical())


def _event(doc: JobDoc, line: SheetLine, name: str, n: int, at: datetime, begins: datetime) -> "Event":
    from icalendar import Event

    event = Event()
    sha = hashlib.sha256(f"{doc.name} {begins.isoformat()} {n} {line.run or line.kind} {line.layout}".encode()).hexdigest()[:24]
    event.add("uid", f"{sha}@oventa")
    event.add("dtstamp", begins)
    event.add("dtstart", at)
    event.add("duration", timedelta(minutes=line.minutes))
    title = TITLES[line.kind].format(layout=line.layout or "")
    event.add("summary", f"{title}, {name}" if name else title)
    event.add("description", "\n".join(line.words))
    event.add("transp", "TRANSPARENT" if line.kind in WITHOUT_A_HAND else "OPAQUE")
    return event
