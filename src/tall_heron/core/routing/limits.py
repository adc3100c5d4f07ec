"""How far a line must keep from each kind of zone, and how near it comes."""

from dataclasses import dataclass
from typing import Any

import numpy as np

from tall_heron.core.base.catalogue import table
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.space import Zone
from tall_heron.core.routing.clearance import distance, nearest
from tall_heron.core.routing.laid import LaidLine, outside_of
from tall_heron.core.routing.vectors import Vector

MOST_KEPT_MM = max(float(r["limit_mm"]) for r in table("clearances"))
HARD = ("aluminium", "steel")  # families that are no hose
HOT_C = 90.0  # over it a zone counts as hot
OWN_END_MM = 80.0  # of a line that may touch what its end is screwed to
SHIELDS = {
    "hot": ("sleeve", "heat shield"),
    "ground": ("stone guard",),
    "crush": ("stone guard",),
    "brake": ("separator",),
    "hands": ("stone guard", "separator"),
    "obstacle": ("sleeve", "stone guard", "separator"),
}
FUEL = ("feed", "return", "suction")  # roles that carry fuel under way


@dataclass(frozen=True)
class ClearanceLimit:
    """How far a line must keep from a zone [mm], how bad it is not to, and where that comes from."""

    mm: float
    level: str
    source: str


@dataclass(frozen=True)
class Near:
    """Where a line comes nearest to a zone: clear between their surfaces [mm], how far along the
    line [mm], the place, and the limit there.
    """

    zone: Zone
    clear: float
    along: float
    at: Vector
    limit: ClearanceLimit

    @property
    def short(self) -> bool:
        """Whether that is nearer than it may be."""
        return self.clear < self.limit.mm - 0.05


def limit_for(
    element: Element, zone: Zone, flies: bool, guards: tuple[str, ...] = ()
) -> ClearanceLimit | None:
    """How far a line, protected as said, must keep from a zone; None where it need not."""
    if zone.kind == "cabin" or (zone.kind in ("crush", "ground") and element.role not in FUEL):
        return None
    if zone.kind == "hot" and (zone.temperature_c is not None and zone.temperature_c <= HOT_C):
        return None
    shielded = any(g in SHIELDS.get(zone.kind, ()) for g in guards) or (
        zone.kind == "hot" and zone.shielded
    )
    if shielded and zone.kind in ("crush", "ground", "hands", "obstacle"):
        return None
    state = (
        "protected"
        if shielded
        else {
            "hot": "line" if element.properties.family in HARD else "bare",
            "moving": "flight" if flies else "",
        }.get(zone.kind, "")
    )
    rows: list[dict[str, Any]] = [r for r in table("clearances") if r["zone"] == zone.kind]
    row = next((r for r in rows if (r["state"] or "") == state), rows[0] if rows else None)
    return (
        ClearanceLimit(float(row["limit_mm"]), str(row["level"]), str(row["source"]))
        if row
        else None
    )


def near_zone(line: LaidLine, zone: Zone, flies: bool) -> Near | None:
    """How near a line comes to a zone, judged where it is worst: bare stretches first, then
    protected ones; None where it need not keep away.
    """
    bare = limit_for(line.element, zone, flies)
    if bare is None:
        return None
    far, along = nearest(zone, line.path, bare.mm + line.outside)
    clear = far - line.outside
    guards = tuple(kind for a, b, kind in line.protected if a <= along <= b)
    limit = limit_for(line.element, zone, flies, guards)
    if line.protected and bare.mm > clear and (limit is None or limit.mm < bare.mm):
        # What is protected where it is nearest may still be bare a little further on.
        points, s = line.path.looked_at()
        covered = np.zeros(len(s), dtype=bool)
        for a, b, kind in line.protected:
            if kind in SHIELDS.get(zone.kind, ()):
                covered |= (s >= a) & (s <= b)
        rest = distance(zone, points) - line.outside
        if (~covered).any():
            i = int(np.where(covered, np.inf, rest).argmin())
            if rest[i] < bare.mm:
                return Near(zone, float(rest[i]), float(s[i]), line.path.at(float(s[i])), bare)
    if limit is None:
        return None
    return Near(zone, clear, along, line.path.at(along), limit)


def own_end(line: LaidLine, near: Near) -> bool:
    """Whether a line is nearest to a body just where it is screwed on: a rail stands on its engine."""
    return near.zone.kind == "obstacle" and (
        near.along < OWN_END_MM or near.along > float(line.path.along[-1]) - OWN_END_MM
    )


def keep_out(element: Element, zone: Zone, flies: bool) -> float:
    """How far the middle of a line must stay from a zone [mm]; below 0 where it may pass through."""
    limit = limit_for(element, zone, flies)
    return (
        -1.0
        if limit is None or zone.kind in ("ground", "crush")
        else limit.mm + outside_of(element) / 2
    )
