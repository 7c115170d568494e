"""A plan as a calendar: the hours of hands, and what waits, in the format that calendars exchange (RFC 5545)."""

from __future__ import annotations

from datetime import datetime
from hashlib import sha256

from icalendar import Calendar, Event

from tailor.core.bench.work import Plan
from tailor.core.shop.workload import Workload

MAKER = "-//Tailor//plan//EN"


def to_bytes(load: Workload, plan: Plan) -> bytes:
    """The calendar. Times are those of the bench, in no zone: they are what its clock says."""
    calendar = Calendar()
    calendar.add("prodid", MAKER)
    calendar.add("version", "2.0")
    made = datetime.combine(load.monday, datetime.min.time())
    for id_, spells in plan.steps.items():
        task = load.tasks[id_]
        for n, spell in enumerate(spells):
            event = Event()
            event.add("uid", sha256(f"{id_} {n}".encode()).hexdigest()[:24])
            event.add("dtstamp", made)
            event.add("dtstart", load.when(spell.start))
            event.add("dtend", load.when(spell.end))
            event.add("summary", f"{task.doing.name} ({task.thing})")
            said = (f"{task.order.name}, {spell.person}", task.doing.why, task.doing.look, task.doing.caution)
            event.add("description", "\n".join(filter(None, said)))
            calendar.add_component(event)
    return bytes(calendar.to_ical())
