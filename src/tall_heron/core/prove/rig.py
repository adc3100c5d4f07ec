"""The stand-in flow rig: one pump on a bench that steps through pressures, weighs what it gives and
writes a CSV; and how such a file is read.
"""

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np

from tall_heron.core.base.constants import KPA, LPH
from tall_heron.core.base.roots import bracketed_root
from tall_heron.core.base.table_text import plain_number, read_table, words_and_unit
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.figures import Curve, PumpMap
from tall_heron.core.hydraulics.compile import FluidState, link_templates
from tall_heron.core.hydraulics.laws import PumpRise, rise
from tall_heron.core.prove.faults import Fault, changed
from tall_heron.core.study.study import Study

HEADERS = ("time (s)", "pressure (kPa)", "flow (L/h)", "voltage (V)", "current (A)")
STEP_S, RATE_HZ, SETTLE_S = 6.0, 5.0, 2.0
MOST_LETTERS = 2_000_000
RIG_SURE = 0.02  # how far flow by a rig may be off, common practice


@dataclass(frozen=True)
class RigRow:
    """A row of the rig, in SI."""

    time: float
    pressure: float
    flow: float
    volts: float
    amps: float


def rig_rows(
    study: Study, pump: str, fault: Fault, seed: int, volts: float = 13.5, steps: int = 8
) -> Iterator[RigRow]:
    """A run of the rig from open to nearly shut, with a fault in the pump or none. Raises
    ValueError for a part that is no electric pump.
    """
    element = (
        next((e for e in changed(study, fault) if e.id == pump), study.build.circuit.element(pump))
        if fault.part == pump
        else study.build.circuit.element(pump)
    )
    if element is None or not isinstance(element.figures, PumpMap):
        raise ValueError(f"{pump} is no electric pump")
    law, currents = _law(study, element, volts - (fault.strength if fault.kind == "volts" else 0.0))
    rng, time = np.random.default_rng(seed), 0.0
    top = min(law.shut_off, law.relief)
    for i in range(steps):
        pressure = max(0.92 * top * i / (steps - 1), 2 * KPA)
        flow = _flow_at(law, pressure)
        for _ in range(round(STEP_S * RATE_HZ)):
            n = rng.standard_normal(4)
            settling = math.exp(-(time % STEP_S) / 0.5)
            amps = currents(flow)
            yield RigRow(
                round(time, 3),
                pressure * (1 - 0.1 * settling) + 800 * n[0],
                flow * (1 + 0.05 * settling) + 0.6 * LPH * n[1],
                volts + 0.02 * n[2],
                amps + 0.05 * n[3],
            )
            time += 1 / RATE_HZ


def _law(study: Study, element: Element, volts: float) -> tuple[PumpRise, Callable[[float], float]]:
    point = study.peak.case.point.model_copy(update={"voltage_v": max(volts, 0.5), "wire_ohm": {}})
    law = next(x for x in link_templates(element, {}) if x.follows == "pump").make(
        FluidState(*point.fluid(), point, {})
    )
    assert isinstance(law, PumpRise)
    if law.currents is None:
        return law, lambda _: 0.0
    total = sum(s.weight for s in law.shares)
    rows = list(zip(law.shares, law.currents, strict=True))
    return (
        law,
        lambda q: (
            law.with_density
            * sum(s.weight / total * c.at(q * s.flow_scale + s.flow_shift)[0] for s, c in rows)
        ),
    )


def _flow_at(law: PumpRise, pressure: float) -> float:
    return bracketed_root(lambda q: pressure - rise(law, q)[0], 0.0, law.last_flow * 1.2)


def rig_text(rows: Iterator[RigRow]) -> str:
    """The rig's file (RFC 4180)."""
    lines = [",".join(f'"{h}"' if "," in h else h for h in HEADERS)]
    lines += [
        f"{r.time:.2f},{r.pressure / KPA:.2f},{r.flow / LPH:.2f},{r.volts:.3f},{r.amps:.3f}"
        for r in rows
    ]
    return "\r\n".join(lines) + "\r\n"


@dataclass(frozen=True)
class RigPoint:
    """The middle of one step: pressure [Pa], flow [m3/s], volts, current [A], and how far its flow
    strayed, one standard deviation [m3/s].
    """

    pressure: float
    flow: float
    volts: float
    amps: float
    sigma: float


class WrongRig(ValueError):
    """A file that is no run of a rig, with its line and what would be right."""


def read_rig(text: str) -> list[RigPoint]:
    """The steps of a rig's file: rows that stand at one pressure, their middle by medians, the
    first two seconds of each left out. Raises WrongRig.
    """
    if len(text) > MOST_LETTERS:
        raise WrongRig("The file is longer than a rig writes; keep every tenth row.")
    try:
        table = read_table(text)
    except ValueError as error:
        raise WrongRig(f"{error}.".capitalize()) from None
    if len(table.rows) < 2:
        raise WrongRig(
            "Line 1: give a line of headers and rows, such as: time (s), pressure (kPa), flow (L/h), voltage (V), current (A)"
        )
    heads = [words_and_unit(h)[0].strip().lower() for h in table.heads]
    missing = [h for h in ("time", "pressure", "flow") if h not in heads]
    if missing:
        raise WrongRig(f"Line 1: no column holds {' or '.join(missing)}.")
    rows = []
    for number, cells in table.rows:
        if misfit := table.misfit(cells):
            raise WrongRig(f"Line {number}: {misfit}.")
        row = {}
        for head, cell in zip(heads, cells, strict=True):
            value = plain_number(cell)
            if value is None or not math.isfinite(value):
                raise WrongRig(f"Line {number}: “{cell[:20]}” under “{head}” is not a number.")
            row[head] = value
        rows.append(row)
    return _steps(rows)


def _steps(rows: list[dict[str, float]]) -> list[RigPoint]:
    pressure = np.array([r["pressure"] for r in rows])
    span = max(float(np.ptp(pressure)), 1.0)
    out, start = [], 0
    for i in range(1, len(rows) + 1):
        if (
            i < len(rows)
            and abs(pressure[i] - np.median(pressure[max(i - 4, start) : i])) < 0.04 * span
        ):
            continue
        settled = [r for r in rows[start:i] if r["time"] >= rows[start]["time"] + SETTLE_S]
        if len(settled) >= 5:
            middle = {k: float(np.median([r[k] for r in settled])) for k in settled[0]}
            stray = float(np.std([r["flow"] for r in settled])) / math.sqrt(len(settled))
            out.append(
                RigPoint(
                    middle["pressure"] * KPA,
                    middle["flow"] * LPH,
                    middle.get("voltage", 13.5),
                    middle.get("current", 0.0),
                    stray * LPH,
                )
            )
        start = i
    if len(out) < 3:
        raise WrongRig("Fewer than three steps of pressure were held for more than four seconds.")
    return sorted(out, key=lambda p: p.flow)


def measured_map(element: Element, points: list[RigPoint]) -> Element:
    """A pump by the points of a rig. Raises ValueError where they make no map."""
    part = element.figures
    if not isinstance(part, PumpMap):
        raise ValueError(f"{element.id} is no electric pump")
    rows: list[list[float]] = []
    for p in points:
        row = [max(p.flow / LPH, 0.0), p.pressure / KPA, *([p.amps] if p.amps > 0 else [])]
        if not rows or (row[0] > rows[-1][0] + 0.5 and row[1] < rows[-1][1] - 0.5):
            rows.append(row)
    if len(rows) < 3 or len({len(r) for r in rows}) > 1:
        raise ValueError("the points do not make a curve: pressure must fall as flow rises")
    if rows[0][0] > 0:  # straight on to no flow
        (q0, p0, *a0), (q1, p1, *a1) = rows[0], rows[1]
        w = q0 / (q1 - q0)
        rows.insert(
            0, [0.0, p0 + w * (p0 - p1), *(x + w * (x - y) for x, y in zip(a0, a1, strict=True))]
        )
    volts = float(np.median([p.volts for p in points]))
    figures = part.model_copy(
        update={
            "curves": [
                Curve(voltage_v=round(volts, 2), rows=[[round(x, 3) for x in r] for r in rows])
            ],
            "measured_with": None,
        }
    )
    properties = element.properties.model_copy(
        update={"provenance": "measured", "flow_tolerance": RIG_SURE}
    )
    return element.model_copy(
        update={
            "figures": figures,
            "title": f"{element.title}, as measured"[:200],
            "properties": properties,
        }
    )
