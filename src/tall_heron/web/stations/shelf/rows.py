"""The shelf as tables: which figures each kind shows."""

from collections.abc import Callable
from dataclasses import dataclass

from tall_heron.core.base.catalogue import by_name, table
from tall_heron.core.base.constants import LPH
from tall_heron.core.document.faces import face
from tall_heron.core.document.figures import (
    Check,
    Injectors,
    Loss,
    Pipe,
    PumpMap,
    Quadratic,
    Regulator,
)
from tall_heron.core.document.kinds import PIPES
from tall_heron.core.document.properties import Properties
from tall_heron.core.document.tank_shape import out_of_reach_l
from tall_heron.core.shelf.shelf import ShelfPart
from tall_heron.web.show.text import bare, dash, inside, liters, shown, unit_of

Cell = Callable[[ShelfPart], str]
AT_KPA = 300.0


@dataclass(frozen=True)
class ShelfGroup:
    """The parts of one kind as a table: headers, and rows of the part and its cells."""

    kind: str
    title: str
    heads: tuple[str, ...]
    rows: tuple[tuple[ShelfPart, tuple[str, ...]], ...]


def _flow_at(part: ShelfPart, curve: int) -> str:
    if not isinstance(part.figures, PumpMap):
        return "—"
    lph = part.figures.curves[min(curve, len(part.figures.curves) - 1)].flow_at(AT_KPA)
    return bare(lph * LPH, "volume_flow") if lph is not None else "—"


def _free(part: ShelfPart) -> str:
    return (
        bare(part.figures.curves[-1].rows[-1][0] * LPH, "volume_flow")
        if isinstance(part.figures, PumpMap)
        else "—"
    )


def _kpa(value: float | None) -> str:
    return bare(value * 1000 if value is not None else None, "pressure")


def _bore(part: ShelfPart) -> str:
    law = part.figures
    return bare(law.bore_mm / 1000, "length", 1) if isinstance(law, Pipe | Check | Loss) else "—"


def _tapped(part: ShelfPart) -> tuple[float, float]:
    law = part.figures
    assert isinstance(law, Injectors)
    assert law.own_lph is not None
    return law.own_lph * LPH, law.commanded_at_kpa * 1000


def _takes(part: ShelfPart) -> str:
    law, at = part.figures, 200.0
    return (
        _kpa(law.a_kpa_per_lph * at + law.b_kpa_per_lph2 * at * at)
        if isinstance(law, Quadratic)
        else "—"
    )


def _mm(value: float | None) -> str:
    return bare(value / 1000 if value is not None else None, "length")


SITS = {"in-tank": "in\u00a0tank", "external": "outside", "": "—"}


def _liters(value: float | None) -> str:
    return liters(value).replace(" ", "\u00a0") or "—"


def _box(part: ShelfPart) -> str:
    sides = (part.properties.long_mm, part.properties.wide_mm, part.properties.high_mm)
    return "—" if None in sides else "\u00a0×\u00a0".join(_mm(x) for x in sides)


def _range(part: ShelfPart) -> str:
    return f"{_kpa(part.properties.set_min_kpa)} to {_kpa(part.properties.set_max_kpa)}"


def _sides(part: ShelfPart) -> str:
    row = by_name("adapters").get(part.name)
    return (
        " and ".join(face(str(row[side])).words for side in ("face_a", "face_b"))
        if row is not None
        else "—"
    )


def _stands(part: ShelfPart) -> str:
    row = by_name("adapters").get(part.name)
    return _mm(row["stands_mm"]) if row is not None else "—"


def _closes(part: ShelfPart) -> str:
    return face(str(by_name("closures")[part.name]["fits"])).words


def _ethanol(part: ShelfPart) -> str:
    most = part.properties.ethanol_max_percent
    return "not stated" if most is None else f"E{most:g}"


def _columns(kind: str) -> tuple[tuple[str, Cell], ...]:
    p, q, mm = unit_of("pressure"), unit_of("volume_flow"), unit_of("length")
    bore: tuple[str, Cell] = (f"bore, {mm}", _bore)
    return {
        "pump": (
            ("works by", lambda s: s.figures.kind if isinstance(s.figures, PumpMap) else ""),
            ("sits", lambda s: SITS.get(s.properties.mount, s.properties.mount)),
            (f"at {bare(AT_KPA * 1000, 'pressure', 0)} {p}, {q}", lambda s: _flow_at(s, -1)),
            (f"free, {q}", _free),
            (f"rated to, {p}", lambda s: _kpa(s.properties.rated_kpa)),
        ),
        "filter": (
            ("fineness, µm", lambda s: f"{s.properties.micron:g}" if s.properties.micron else "—"),
            ("element", lambda s: s.properties.medium),
            (f"takes at {shown(200 * LPH, 'volume_flow')}, {p}", _takes),
        ),
        "hose": (
            ("size", lambda s: dash(s.properties.dash)),
            bore,
            (f"working, {p}", lambda s: _kpa(s.properties.working_kpa)),
            (f"least bend, {mm}", lambda s: _mm(s.properties.bend_radius_mm)),
        ),
        "regulator": (
            ("holds its", lambda s: s.figures.holds if isinstance(s.figures, Regulator) else ""),
            (f"set, {p}", _range),
        ),
        "injectors": (
            (
                "rated, cc/min at kPa",
                lambda s: (
                    f"{s.figures.rated_lph / 0.06:.0f} at {s.figures.rated_kpa:g}"
                    if isinstance(s.figures, Injectors) and s.figures.rated_lph
                    else "—"
                ),
            ),
            (f"body, {mm}", lambda s: _mm(s.properties.body_mm)),
        ),
        "auxiliary": (
            (f"flow, {unit_of('volume_flow')}", lambda s: bare(_tapped(s)[0], "volume_flow")),
            (f"at, {p}", lambda s: bare(_tapped(s)[1], "pressure")),
        ),
        "check": (
            (
                f"opens at, {p}",
                lambda s: (
                    bare(s.figures.cracking_kpa * 1000, "pressure", 2)
                    if isinstance(s.figures, Check)
                    else "—"
                ),
            ),
            bore,
        ),
        "tank": (
            ("sort", lambda s: s.properties.family),
            ("holds", lambda s: _liters(s.properties.capacity_l)),
            (f"long × wide × high, {mm}", _box),
            ("under its outlet", lambda s: _liters(out_of_reach_l(s.properties))),
            ("inside", lambda s: inside(s.properties) or "—"),
            (
                "openings",
                lambda s: "—" if s.properties.openings is None else f"{s.properties.openings:g}",
            ),
        ),
        "fitting": (("its sides", _sides), bore, (f"stands out, {mm}", _stands)),
        "closure": (("goes on", _closes),),
        "end": (
            ("size", lambda s: dash(s.properties.dash)),
            (f"throat, {mm}", _bore),
            (
                "K",
                lambda s: f"{s.figures.loss_coefficient:g}" if isinstance(s.figures, Loss) else "—",
            ),
        ),
    }.get(kind, (bore,))


GROUPS = (
    ("pump", ("pump",), "Pumps"),
    ("filter", ("strainer", "filter"), "Strainers and filters"),
    ("regulator", ("regulator",), "Regulators"),
    ("injectors", ("injectors", "carburettor"), "Injectors and carburetors"),
    ("auxiliary", ("auxiliary",), "Auxiliary fuel taps"),
    ("hose", PIPES, "Hoses and hard lines"),
    ("end", ("end",), "Hose ends"),
    ("check", ("check",), "Check valves"),
    ("rail", ("rail", "merge", "split"), "Rails and Y-blocks"),
    ("damper", ("damper", "sensor", "gauge", "valve"), "Dampers, sensors, gauges, shut-offs"),
    ("fitting", ("fitting", "vent_valve"), "Adapters, bulkheads, vents"),
    ("closure", ("closure",), "Caps, plugs, gauge tees"),
    ("tank", ("tank",), "Tanks, cells and surge tanks"),
)


def _ends() -> list[ShelfPart]:
    return [
        ShelfPart(
            str(row["name"]),
            dash(str(row["title"])),
            "end",
            Loss(bore_mm=row["throat_bore_mm"], loss_coefficient=row["loss_coefficient"]),
            Properties(
                price=row["price"], mass_kg=row["mass_kg"], dash=row["dash"], family=row["family"]
            ),
            str(row["source"]),
        )
        for row in table("ends")
    ]


def _closures() -> list[ShelfPart]:
    return [
        ShelfPart(
            str(row["name"]),
            str(row["title"]),
            "closure",
            Loss(bore_mm=1.0, loss_coefficient=0.0),
            Properties(price=row["price"], mass_kg=row["mass_kg"]),
            str(row["source"]),
        )
        for row in table("closures")
    ]


def shelf_groups(parts: list[ShelfPart]) -> list[ShelfGroup]:
    """The tables of the shelf."""
    out = []
    parts = [*parts, *_ends(), *_closures()]
    for kind, kinds, title in GROUPS:
        columns = _columns(kind)
        rows = [
            (s, (*tuple(cell(s) for _, cell in columns), _ethanol(s)))
            for s in parts
            if s.kind in kinds
        ]
        out.append(
            ShelfGroup(
                kind, title, (*tuple(head for head, _ in columns), "ethanol to"), tuple(rows)
            )
        )
    return out
