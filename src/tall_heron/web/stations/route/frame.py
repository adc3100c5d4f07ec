"""How places are written: ahead, left and up in a car; station, butt line and waterline in an
aircraft.
"""

from typing import Any

from tall_heron.core.routing.outline import Outline
from tall_heron.core.routing.vectors import Vector
from tall_heron.web.forms import reading
from tall_heron.web.forms.field import Field

CAR = (("x", "Ahead of the rear end"), ("y", "Left of the middle"), ("z", "Over the ground"))
AIRCRAFT = (
    ("x", "Station, aft of the nose"),
    ("y", "Butt line, left"),
    ("z", "Waterline, over the ground"),
)

FURTHEST_MM = 50_000.0  # nothing lies further away


def axes(outline: Outline) -> tuple[tuple[str, str], ...]:
    """The names of the three figures of a place."""
    return AIRCRAFT if outline.flies else CAR


def written(outline: Outline, v: Vector) -> tuple[float, float, float]:
    """A place as it is written [m]."""
    x = outline.size[0] - v[0] if outline.flies else v[0]
    return x / 1000, v[1] / 1000, v[2] / 1000


def meant(outline: Outline, v: Vector) -> Vector:
    """The place that is meant by what is written [mm]."""
    return (outline.size[0] - v[0] if outline.flies else v[0]), v[1], v[2]


def read_mm(data: dict[str, Any], name: str, field: str) -> float:
    """A length of a request [mm]. Refused beside its field."""
    return Field(field, "Length", "length", 1000.0, bounds=(-FURTHEST_MM, FURTHEST_MM)).read(
        reading.text_of(data, name)
    )


def read_degrees(data: dict[str, Any], name: str, field: str, most: float) -> float:
    """An angle of a request [deg], none for an empty one. Refused beside its field."""
    value = Field(field, "Angle", sort="angle", optional=True, bounds=(-most, most)).read(
        reading.text_of(data, name)
    )
    return value or 0.0


def read_place(outline: Outline, data: dict[str, Any]) -> Vector:
    """A typed place. Refused beside the field that is wrong."""
    return meant(
        outline, (read_mm(data, "x", "x"), read_mm(data, "y", "y"), read_mm(data, "z", "z"))
    )


def number_of(data: dict[str, Any], name: str, most: float = 1e6) -> float:
    """A plain number that the page itself sends. Refused where it is none."""
    value = data.get(name)
    if isinstance(value, bool) or not isinstance(value, int | float) or not abs(value) <= most:
        raise reading.Refused(name, "That is no number that a page would send.")
    return float(value)


def places_of(data: dict[str, Any], name: str) -> list[Vector]:
    """Corners that the page sends, in the vehicle's own frame [mm]."""
    value = data.get(name)
    if (
        not isinstance(value, list)
        or len(value) > 60
        or not all(isinstance(p, list) and len(p) == 3 for p in value)
    ):
        raise reading.Refused(name, "Those are no corners that a page would send.")
    return [tuple(number_of({name: c}, name, 50_000) for c in p) for p in value]  # type: ignore[misc]
