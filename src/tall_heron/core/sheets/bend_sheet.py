"""How a hard line is bent: the table, the marks on the straight tube, what to do first."""

import math
from dataclasses import dataclass

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.document.circuit import Element
from tall_heron.core.routing.laid import Laid, LaidLine
from tall_heron.core.routing.run import bend_table
from tall_heron.core.routing.vectors import Vector, cross, dot, subtract_vectors, unit

HARD = ("aluminium", "steel")
FLAT = 0.5  # mm off its plane at most, of a line that is drawn as it lies


@dataclass(frozen=True)
class BendRow:
    """A bend: straight before it [mm], turn of its plane clockwise seen along the tube [deg], angle
    [deg], radius [mm], where it begins and ends from end A of the straight tube [mm].
    """

    straight_mm: float
    rotation_deg: float
    angle_deg: float
    radius_mm: float
    starts_mm: float
    ends_mm: float


@dataclass(frozen=True)
class BendSheet:
    """A hard line to be bent: its bends, the last straight [mm], how long the tube is before it is
    bent [mm], its outside [mm]; reminders; `trouble` says why there is no table; `flat` is
    its middle line in its own plane [mm] where it has one.
    """

    element: Element
    rows: tuple[BendRow, ...]
    last_mm: float
    tube_mm: float
    outside_mm: float
    reminders: tuple[str, ...]
    assumed: bool
    flat: tuple[tuple[float, float], ...] = ()
    trouble: str = ""


def make_bend_sheets(laid: Laid) -> list[BendSheet]:
    """Every hard line that is led through the vehicle, in document order."""
    return [
        _sheet(x)
        for x in laid.lines.values()
        if x.element.properties.family in HARD and not x.inside
    ]


def _guessed(x: LaidLine) -> bool:
    return not x.drawn or (x.element.length is not None and x.element.length.guessed)


def _sheet(x: LaidLine) -> BendSheet:
    e, run = x.element, x.run
    before, behind = run.one.inserted, run.other.inserted
    try:
        if x.trouble:
            raise ValueError(x.trouble)
        table, last = bend_table(run)
    except ValueError as error:
        return BendSheet(
            e,
            (),
            0.0,
            run.cut,
            2 * x.outside,
            (),
            _guessed(x),
            (),
            f"{str(error)[:1].upper()}{str(error)[1:]}.",
        )
    rows = tuple(
        BendRow(
            r.straight + (before if i == 0 else 0.0),
            math.degrees(r.rotation),
            math.degrees(r.angle),
            r.radius,
            r.starts + before,
            r.starts + before + r.radius * r.angle,
        )
        for i, r in enumerate(table)
    )
    return BendSheet(
        e,
        rows,
        last + behind,
        run.cut,
        2 * x.outside,
        _reminders(rows, last + behind),
        _guessed(x),
        _flat(run.drawn()),
    )


def _reminders(rows: tuple[BendRow, ...], last: float) -> tuple[str, ...]:
    need = house_figure("nut_and_sleeve_mm")
    out = [
        "Nut and sleeve on before the flare, both looking outward; 37° flare.",
        "Bend a trial piece first: add what it springs back, often 2° to 4°.",
    ]
    ends = [
        name
        for name, straight in (("A", rows[0].straight_mm if rows else last), ("B", last))
        if straight < need
    ]
    if ends:
        out.append(
            f"End {' and '.join(ends)}: less than {need:g} mm of straight, too little to slide nut and sleeve back for the flare. Flare that end before it is bent, or move the first corner."
        )
    tight = [i + 1 for i in range(1, len(rows)) if rows[i].straight_mm < rows[i].radius_mm]
    if tight:
        out.append(
            f"Bend {' and '.join(map(str, tight))}: little straight before it; try whether the bender holds it."
        )
    return tuple(out)


def _flat(points: list[Vector]) -> tuple[tuple[float, float], ...]:
    """The points in the plane that they lie in, the first leg to the right; nothing for a line that
    lies in none.
    """
    first = unit(subtract_vectors(points[1], points[0]))
    normal = next(
        (
            unit(n)
            for p in points[2:]
            if dot(n := cross(first, subtract_vectors(p, points[0])), n) > 1.0
        ),
        None,
    )
    if normal is None:
        return tuple((dot(subtract_vectors(p, points[0]), first), 0.0) for p in points)
    up = cross(normal, first)
    if any(abs(dot(subtract_vectors(p, points[0]), normal)) > FLAT for p in points):
        return ()
    return tuple(
        (dot(subtract_vectors(p, points[0]), first), dot(subtract_vectors(p, points[0]), up))
        for p in points
    )
