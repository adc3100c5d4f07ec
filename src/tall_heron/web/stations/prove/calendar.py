"""Upkeep as a calendar that any calendar program reads (RFC 5545)."""

from datetime import UTC, date, datetime, timedelta

from tall_heron.core.prove.upkeep import Due

BEFORE = timedelta(days=14)


def reminders(slug: str, name: str, due: list[Due]) -> str:
    """One all-day event for each piece of upkeep that has a day, with a reminder two weeks before."""
    from icalendar import Alarm, Calendar, Event  # loaded by who asks for it

    calendar = Calendar()
    calendar.add("prodid", "-//Tall Heron//upkeep//EN")
    calendar.add("version", "2.0")
    for d in due:
        if d.day is None:
            continue
        day = date.fromordinal(d.day)
        event = Event()
        event.add("uid", f"{slug}-{d.name}@tall-heron")
        event.add("dtstamp", datetime.now(UTC))
        event.add("dtstart", day)
        event.add("dtend", day + timedelta(days=1))
        event.add(
            "summary", f"{name}: {d.row['title']}{f' ({chr(44).join(d.parts)})' if d.parts else ''}"
        )
        event.add("description", f"{d.row['do']} {d.why}".strip())
        alarm = Alarm()
        alarm.add("action", "DISPLAY")
        alarm.add("description", str(d.row["title"]))
        alarm.add("trigger", -BEFORE)
        event.add_component(alarm)
        calendar.add_component(event)
    return calendar.to_ical().decode("utf-8")
