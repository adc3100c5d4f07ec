"""A zone drawn as a rectangle in one view of the vehicle: what that view does not show is taken
from the zone of the same name, else it goes all the way through.
"""

from tall_heron.core.base.catalogue import by_name
from tall_heron.core.base.errors import wrong
from tall_heron.core.document.build import Build, checked
from tall_heron.core.document.space import VIEW_AXES, Zone
from tall_heron.core.editing.route import set_zone
from tall_heron.core.routing.laid import lay_out
from tall_heron.core.routing.outline import Outline

Flat = tuple[float, float]
LEAST_MM = 10.0  # a side of what is drawn


def draw_zone(build: Build, name: str, usual: str, view: str, one: Flat, other: Flat) -> Build:
    """Draw a zone between two opposite corners along a view's own axes [mm]; `usual` says what it
    is. Raises BuildErrors.
    """
    row = by_name("zones_usual", "title").get(usual)
    if row is None or view not in VIEW_AXES:
        raise wrong("zone", "choose what it is, and a view to draw it in")
    if min(abs(a - b) for a, b in zip(one, other, strict=True)) < LEAST_MM:
        raise wrong("zone", "click two opposite corners of it, well apart")
    outline = lay_out(build).outline
    name = name.strip() or usual
    old = next((z for z in outline.zones if z.name == name), None)
    low, high = _box_of(old) if old is not None else through(outline)
    for (axis, sign), a, b in zip(VIEW_AXES[view], one, other, strict=True):
        low[axis], high[axis] = sorted((sign * a, sign * b))
    fields = {
        "name": name,
        "title": name,
        "kind": row["kind"],
        "low": tuple(low),
        "high": tuple(high),
        "temperature_c": row["temperature_c"],
    }
    if old is not None:
        fields |= {
            "kind": old.kind,
            "temperature_c": old.temperature_c,
            "shielded": old.shielded,
            "title": old.title or name,
        }
    return set_zone(build, checked(Zone, fields))


def through(outline: Outline) -> tuple[list[float], list[float]]:
    """The lowest and the highest corner of what goes all the way through a vehicle, or through the
    cabin of an aircraft [mm].
    """
    long, wide, high = outline.size
    half = (outline.dimensions["cabin"] if outline.flies else wide) / 2
    return [0.0, -half, 0.0], [long, half, high]


def seen_once(zone: Zone, outline: Outline) -> bool:
    """Whether a zone still goes all the way through in a direction in which nobody has drawn it."""
    low, high = through(outline)
    return any(zone.low[i] <= low[i] and zone.high[i] >= high[i] for i in range(3))


def _box_of(zone: Zone) -> tuple[list[float], list[float]]:
    r = zone.radius_mm or 0.0
    ends = list(zip(zone.low, zone.high, strict=True))
    grown = [r if r and a == b else 0.0 for a, b in ends]
    return [min(e) - g for e, g in zip(ends, grown, strict=True)], [
        max(e) + g for e, g in zip(ends, grown, strict=True)
    ]
