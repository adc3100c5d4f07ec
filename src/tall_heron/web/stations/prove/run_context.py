"""A logger's run: how its columns are read, what is remembered of that, its replay, and what the
page shows of it.
"""

import hashlib
import json
from typing import Any

import numpy as np
from flask import g, request

from tall_heron.core.base.log_columns import ABSOLUTE, GAUGE, columns_of
from tall_heron.core.base.lru_cache import LruCache
from tall_heron.core.design import Design
from tall_heron.core.physics.slosh import Array
from tall_heron.core.prove.car import switchable
from tall_heron.core.prove.log_head import (
    OVER,
    ColumnMap,
    Head,
    LogColumn,
    WrongLog,
    read_head,
    text_of,
)
from tall_heron.core.prove.replay import Replay
from tall_heron.core.prove.samples import Whole
from tall_heron.core.prove.words import cause_words
from tall_heron.store import logs
from tall_heron.web.answers import Stored
from tall_heron.web.files import database
from tall_heron.web.show.text import in_unit, unit_of
from tall_heron.web.stations.prove.proving import Proving
from tall_heron.web.stations.prove.words import cause_rows, headline

REPLAYS = LruCache[Replay](4)  # by the file's hash, how it is read and the build's hash
MOST_SPARE = 3.0  # beyond it nobody asks how much it is
MOST_POINTS = 1400  # of a line on a chart
UNITS = {
    "pressure": (("kpa", "kPa"), ("bar", "bar"), ("psi", "psi"), ("inhg", "inHg")),
    "temperature": (("c", "°C"), ("f", "°F"), ("k", "K")),
    "duration": (("s", "s"), ("ms", "ms"), ("min", "min")),
    "speed": (("rpm", "rpm"), ("hz", "Hz")),
    "voltage": (("v", "V"),),
    "fraction": (("%", "%"),),
    "current": (("a", "A"),),
    "acceleration": (("g", "g"), ("m/s2", "m/s²")),
}
FROM = ((GAUGE, "over the air"), (ABSOLUTE, "absolute"), (OVER, "over the manifold"))


def remembered(head_signature: str) -> ColumnMap:
    """How files with these headers were read before."""
    text = logs.setting(g.connection, _name(head_signature))
    return {k: tuple(v) for k, v in json.loads(text).items()} if text else {}


def remember(signature: str, column_map: ColumnMap) -> None:
    """Keep how files with these headers are read."""
    logs.remember(
        g.connection, _name(signature), json.dumps({k: list(v) for k, v in column_map.items()})
    )


def _name(signature: str) -> str:
    return f"columns {hashlib.sha256(signature.encode('utf-8', 'surrogatepass')).hexdigest()[:24]}"


def head_of(text: str) -> tuple[Head, ColumnMap]:
    """A file's headers, as they were told before where they were. Raises WrongLog."""
    try:
        head = read_head(text)
    except WrongLog:
        first = next((x for x in text.splitlines() if x.strip()), "")
        column_map = remembered(
            " | ".join(
                c.strip().strip('"') for c in first.replace(";", ",").replace("\t", ",").split(",")
            )
        )
        if not column_map:
            raise
        return read_head(text, column_map), column_map
    column_map = remembered(head.signature)
    return (read_head(text, column_map), column_map) if column_map else (head, column_map)


def file_text(sha256: str) -> str | None:
    """A kept log's text; None where it is gone."""
    data = logs.file_data(database(), sha256)
    return text_of(data) if data is not None else None


def key_of(sha256: str, head: Head, build: str) -> str:
    """What a replay is kept under."""
    columns = "|".join(f"{c.header}:{c.key}:{c.unit}:{c.counts}" for c in head.columns)
    return hashlib.sha256(
        f"{sha256} {columns} {build}".encode("utf-8", "surrogatepass")
    ).hexdigest()


def column_data(c: LogColumn) -> dict[str, Any]:
    """A column for the page."""
    return {
        "header": c.header,
        "key": c.key,
        "unit": c.unit,
        "counts": c.counts,
        "asks": list(c.asks),
        "why": c.why,
    }


def run_context(found: Stored, made: Design, p: Proving) -> dict[str, Any]:
    """What the pages of runs show: a file's replay where it is kept in memory, else the file that
    is to be replayed.
    """
    faults = [(f"{f.kind} {f.part}".strip(), cause_words(f)) for f in switchable(made.study)]
    out: dict[str, Any] = {
        "runs": list(reversed(p.folded.runs)),
        "replay": None,
        "file": "",
        "wrong": "",
        "head": None,
        "faults": faults,
    }
    rows = columns_of("log")
    out |= {
        "columns": [(str(r["name"]), str(r["words"])) for r in rows],
        "units_of": UNITS,
        "quantity_of": {str(r["name"]): str(r["quantity"]) for r in rows},
        "froms": FROM,
    }
    sha256 = request.args.get("file", "")[:64]
    if not sha256 or logs.file_row(g.connection, sha256) is None:
        return out
    try:
        text = file_text(sha256)
        if text is None:
            return out | {
                "wrong": "This file is no longer what was kept, or is gone; take it from a backup."
            }
        head, _ = head_of(text)
    except WrongLog as wrong:
        return out | {"wrong": str(wrong)}
    key = key_of(sha256, head, found.row["sha256"])
    replay = REPLAYS.find(key)
    out |= {"file": sha256, "head": head, "name": request.args.get("name", "")[:80] or "run"}
    out |= {
        "columns_now": [column_data(c) for c in head.columns],
        "column_words": {str(r["name"]): str(r["words"]) for r in rows},
    }
    if replay is None:
        return out
    kept = any(e.files and e.files[0].sha256 == sha256 for _, e in p.folded.runs)
    return out | {
        "replay": replay,
        "headline": headline,
        "causes": cause_rows(replay.verdict) if replay.verdict else [],
        "kept": kept,
    }


SERIES = (
    ("rail", "rail, read", "pressure"),
    ("said", "rail, predicted", "pressure"),
    ("over", "over the manifold, read", "pressure"),
    ("over_said", "predicted", "pressure"),
    ("spare", "pump headroom", "fraction"),
    ("volts", "volts", "voltage"),
    ("duty", "duty, read", "fraction"),
    ("duty_said", "predicted", "fraction"),
    ("stage", "staged pumps on", ""),
)
CHARTS = (
    ("Rail", "pressure", ("rail", "said")),
    ("Rail over manifold", "pressure", ("over", "over_said")),
    ("Headroom of the pumps, 300 or more as 300", "fraction", ("spare",)),
    ("Volts", "voltage", ("volts",)),
    ("Injector duty", "fraction", ("duty", "duty_said")),
    ("Staged pumps", "", ("stage",)),
)


def chart_data(r: Replay, start: float, end: float) -> dict[str, Any]:
    """Lines of all charts between two times [s], thinned so that the largest partings stay; a gap
    breaks every line.
    """
    t, f = r.log.time, r.log.figures
    a, b = int(np.searchsorted(t, start)), int(np.searchsorted(t, end, side="right"))
    at = _thinned(r.off, a, b)
    manifold = f.get("manifold")
    rows: dict[str, Array] = {
        "rail": f["rail"],
        "said": r.predicted,
        "spare": np.minimum(r.headroom, MOST_SPARE),
        "duty_said": r.duty_said,
    }
    if manifold is not None:
        rows |= {"over": f["rail"] - manifold, "over_said": r.predicted - manifold}
    for name in ("volts", "duty"):
        if name in f:
            rows[name] = f[name]
    if r.running.max() > 0:
        rows["stage"] = np.array([bin(int(x)).count("1") for x in r.running], float)
    breaks = {x for x in r.log.breaks if a < x < b}
    data: dict[str, list[float | None]] = {name: [] for name in ("x", *rows)}
    quantity = {name: q for name, _, q in SERIES}
    before = -1
    scaled = {name: _scaled(values[at], quantity[name]) for name, values in rows.items()}
    for n, i in enumerate(at.tolist()):
        if any(before < x <= i for x in breaks) and before >= 0:
            data["x"].append((float(t[before]) + float(t[i])) / 2)
            for name in rows:
                data[name].append(None)
        data["x"].append(round(float(t[i]), 4))
        for name in rows:
            value = float(scaled[name][n])
            data[name].append(round(value, 4) if np.isfinite(value) else None)
        before = i
    charts = [
        {
            "title": title,
            "unit": unit_of(q) if q else "",
            "series": [
                {"name": s, "label": label, "values": data[s]}
                for s, label, _ in SERIES
                if s in names and any(v is not None for v in data.get(s, ()))
            ],
        }
        for title, q, names in CHARTS
    ]
    return {
        "x": data["x"],
        "charts": [c for c in charts if c["series"]],
        "marks": [[m.start, m.end] for m in r.marks],
        "from": float(t[0]),
        "to": float(t[-1]),
    }


def _scaled(values: Array, quantity: str) -> Array:
    if not quantity:
        return values
    zero, one = in_unit(0.0, quantity), in_unit(1.0, quantity)
    return zero + values * (one - zero)


def _thinned(off: Array, a: int, b: int) -> Whole:
    """Places between two, all of them or those of the least and most in each of many pieces."""
    if b - a <= MOST_POINTS:
        return np.arange(a, b)
    edges = np.linspace(a, b, MOST_POINTS // 2 + 1).astype(int)
    kept = []
    for low, high in zip(edges[:-1].tolist(), edges[1:].tolist(), strict=True):
        if high > low:
            piece = np.nan_to_num(off[low:high])
            kept += [low + int(np.argmin(piece)), low + int(np.argmax(piece))]
    return np.unique(np.array(kept))
