"""What the page of a run shows: the fuel in a tank along it, step by step."""

import json
from dataclasses import dataclass
from typing import Any

import numpy as np
from flask import g

from tall_heron.core.base.lru_cache import LruCache
from tall_heron.core.base.units import parse, show
from tall_heron.core.design import Design
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.tank_inside import Inside
from tall_heron.core.editing.inside import side_text, walls_text
from tall_heron.core.hydraulics.vessel import Tank, make_tank
from tall_heron.core.study.slosh.drive_file import SHIPPED, Drive, WrongRun, read_run, shipped
from tall_heron.core.study.slosh.drive_flows import rail_along, run_flows, run_tanks
from tall_heron.core.study.slosh.slosh_run import STEP, Flows, Slosh, slosh
from tall_heron.core.study.study import Study
from tall_heron.store import runs
from tall_heron.web.answers import Stored
from tall_heron.web.drawing.charts.run_strip import draw_strip
from tall_heron.web.forms.reading import whole
from tall_heron.web.frame import frame
from tall_heron.web.show.text import in_unit, unit_of, volume_of
from tall_heron.web.show.units import unit

USUAL = {"flight": "descent", "drag": "launch"}
HALF = 0.5
KNOWN = LruCache[Slosh](16)  # by the document's hash, the tank, the run and the fill


@dataclass(frozen=True)
class Dry:
    """A stretch in which the outlet is dry: from and to [s], and the mean readings in it [g]."""

    start: float
    end: float
    ahead: float
    left: float


def every_run() -> list[tuple[str, str, bool]]:
    """The runs there are: key, name, whether it was brought in."""
    return [
        *((f"own-{r['id']}", r["name"], True) for r in runs.every(g.connection)),
        *((k, v, False) for k, v in SHIPPED.items()),
    ]


def run_of(key: str, use: str) -> Drive:
    """A run by its key; the usual one of a use where there is none of that name."""
    row = (
        runs.find(g.connection, whole(key.removeprefix("own-"))) if key.startswith("own-") else None
    )
    if row is not None:
        return read_run(row["name"], row["text"])
    return shipped(key if key in SHIPPED else USUAL.get(use, "lap"))


def dry_stretches(s: Slosh, run: Drive) -> list[Dry]:
    """Where the outlet is dry along a run."""
    out = []
    off = np.flatnonzero(np.diff(np.concatenate([[0], (s.covered < HALF).astype(int), [0]])))
    for a, b in zip(off[::2], off[1::2], strict=True):
        start, end = float(s.times[a]), float(s.times[min(b, len(s.times) - 1)])
        ahead, left = (
            float(np.interp(s.times[a:b], run.times, run.readings[:, i]).mean()) for i in (0, 1)
        )
        out.append(Dry(start, end, ahead, left))
    return out


def lowest(s: Slosh) -> tuple[float | None, float | None]:
    """The largest share of the tank with which the engine gets air on the run, and the least with
    which it does not; of the fills that were tried.
    """
    starves = [share for share, _, air in s.fills if air > STEP / 2]
    holds = [
        share for share, _, air in s.fills if air <= STEP / 2 and share > max(starves, default=0.0)
    ]
    return max(starves, default=None), min(holds, default=None)


def run_context(found: Stored, made: Design, asked: dict[str, str]) -> dict[str, Any]:
    """Everything the page shows, for a tank, a run and a fill that are asked for."""
    study = made.study
    tanks = run_tanks(study)
    tank = next((t for t in tanks if t.id == asked.get("tank")), tanks[0] if tanks else None)
    trouble = ""
    try:
        run = run_of(asked.get("run", ""), study.brief.use)
    except (
        WrongRun
    ) as wrong:  # read once before it was kept: only a change of the reader brings it here
        trouble, run = str(wrong), shipped(USUAL.get(study.brief.use, "lap"))
    shape = make_tank(tank.properties) if tank is not None else None
    flows = run_flows(study, tank) if tank is not None else None
    out = frame(found, made, "cases") | {
        "tanks": tanks,
        "tank": tank,
        "run": run,
        "runs": every_run(),
        "run_key": asked.get("run") or next((k for k, v in SHIPPED.items() if v == run.name), ""),
        "shape": shape,
        "flows": flows,
        "inside": _typed(tank),
        "view": "run",
        "wrong_fill": "",
        "trouble": trouble,
    }
    if shape is None or flows is None:
        return out
    fill, out["wrong_fill"] = _fill(asked.get("fill", ""), shape)
    assert tank is not None
    key = f"{found.row['sha256']} {tank.id} {run.name} {run.seconds} {float(run.readings.sum())!r} {fill!r}"
    s = KNOWN.get(key, lambda: slosh(shape, flows, run.times, run.readings, run.loads, fill))
    return (
        out
        | _shown(study, shape, flows, run, s, fill)
        | {"fill_text": asked.get("fill", "").strip() or volume_of(fill * shape.holds)}
    )


def _fill(text: str, shape: Tank) -> tuple[float, str]:
    """The share of a tank that a text says, half of it where it says nothing; and what is wrong
    with it.
    """
    if not text.strip():
        return HALF, ""
    try:
        share = (
            parse(text, "fraction", "%")
            if "%" in text
            else parse(text, "volume", unit("tank_volume").word) / shape.holds
        )
    except ValueError as error:
        return HALF, str(error)
    if not 0.01 <= share <= 1:
        return HALF, f"The tank holds {volume_of(shape.holds)}; start with some of that."
    return share, ""


def _shown(
    study: Study, shape: Tank, flows: Flows, run: Drive, s: Slosh, fill: float
) -> dict[str, Any]:
    rail = rail_along(study, run, s.times + run.times[0])
    pressure = unit("pressure").word
    rail_shown = (
        np.array([show(float(p), "pressure", pressure) for p in rail]) if rail is not None else None
    )
    holds = s.pot if s.pot is not None else s.volumes.sum(1)
    most = flows.pot if flows.pot is not None else float(shape.holds)
    stretches = dry_stretches(s, run)
    read = [np.interp(s.times, run.times, run.readings[:, i]) for i in (0, 1)]
    strip = draw_strip(
        s.times,
        (read[0], read[1]),
        [(d.start, d.end) for d in stretches],
        (
            "surge tank holds" if s.pot is not None else "tank holds",
            in_unit(1.0, "tank_volume") * holds,
            in_unit(most, "tank_volume"),
            unit_of("tank_volume"),
        ),
        (
            rail_shown,
            s.delivered,
            float(rail_shown.max()) * 1.1 if rail_shown is not None else 1.0,
            unit("pressure").label,
        ),
    )
    rows = _table(s, read, 1000 * holds, rail_shown)
    return {
        "s": s,
        "fill": fill,
        "strip": strip,
        "stretches": stretches,
        "lowest": lowest(s),
        "first": int(np.flatnonzero(s.covered < HALF)[0]) if stretches else 0,
        "rows": rows,
        "longest": max((d.end - d.start for d in stretches), default=0.0),
        "data": json.dumps(_data(shape, s, 1000 * holds, rail_shown, flows.pot is not None)),
    }


def _table(
    s: Slosh, read: list[Any], liters: Any, rail: Any
) -> list[tuple[float, float, float, bool, float, float | None]]:
    """A row a second, or as many as a page bears: time, ahead, left, whether the outlet is covered,
    volume [m3], rail.
    """
    every = max(round(1 / STEP), len(s.times) // 240)
    return [
        (
            float(s.times[i]),
            float(read[0][i]),
            float(read[1][i]),
            bool(s.covered[i] > HALF),
            float(liters[i]) / 1000,
            (float(rail[i]) if s.delivered[i] > HALF else 0.0) if rail is not None else None,
        )
        for i in range(0, len(s.times), every)
    ]


def _data(shape: Tank, s: Slosh, liters: Any, rail: Any, pot: bool) -> dict[str, Any]:
    """What the page's script moves: lengths in mm."""
    prisms = [
        [i, *(round(1000 * v, 1) for v in (q.x0, q.x1, q.y0, q.y1, *q.floor, *q.top))]
        for i, row in enumerate(shape.vessel.compartments)
        for q in row
    ]
    return {
        "step": STEP,
        "long": round(1000 * shape.long, 1),
        "wide": round(1000 * shape.wide, 1),
        "high": round(1000 * shape.high, 1),
        "outlet": [round(1000 * v, 1) for v in shape.outlet[1:]],
        "prisms": prisms,
        "openings": [
            [round(1000 * v, 1) for v in (o.x, o.y, o.low, o.high)] for o in shape.openings
        ],
        "slopes": s.slopes.round(3).tolist(),
        "heights": (1000 * s.heights).round(1).tolist(),
        "covered": s.covered.astype(int).tolist(),
        "fed": s.delivered.astype(int).tolist(),
        "volumes": [round(in_unit(x / 1000, "tank_volume"), 2) for x in liters.tolist()],
        "volume_unit": unit_of("tank_volume"),
        "pressure_unit": unit_of("pressure"),
        "rail": np.round(rail, 1).tolist() if rail is not None else None,
        "pot": pot,
    }


def _typed(tank: Element | None) -> dict[str, str]:
    """The inside of a tank as it would be typed."""
    inside = (tank.properties.inside if tank is not None else None) or Inside()
    word = unit("length").word

    def length(mm: float | None) -> str:
        return "" if mm is None else f"{show(mm / 1000, 'length', word):.4g} {unit('length').label}"

    return {
        "lies": {None: "", False: "along", True: "across"}[inside.turned],
        "ahead": length(inside.pickup_ahead_mm),
        "right": length(inside.pickup_right_mm),
        "walls": walls_text(inside),
        "side": side_text(inside),
        "hump_high": length(inside.hump_high_mm),
        "hump_wide": length(inside.hump_wide_mm),
        "gauge": {None: "", True: "yes", False: "no"}[
            tank.properties.level_gauge if tank is not None else None
        ],
    }
