"""A run as a logger or a hand wrote it: time and accelerations as a CSV, columns and rows in any
order, units in the headers, semicolons or commas, decimal comma or point.
"""

import math
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from tall_heron.core.base.catalogue import by_name, text
from tall_heron.core.base.constants import GRAVITY
from tall_heron.core.base.log_columns import known_column, scale_of, words_of
from tall_heron.core.base.table_text import TextTable, plain_number, read_table
from tall_heron.core.physics.slosh import Array

MOST_ROWS, MOST_LETTERS = 20_000, 900_000
LONG_GAP = 2.0  # s without a reading that is told
MOST_G = 12.0
ACCELERATIONS = ("ahead", "left", "right", "up")
AT_REST = 0.5  # g: an upward reading with a middle above it holds gravity
FEW_BACK = 0.05  # of the rows: a clock that goes back so seldom begins another run


@dataclass(frozen=True)
class Drive:
    """A run: `times` [s, from 0, rising], `readings` of an accelerometer (n x 3: ahead, left, up
    [g]; level and at rest 0, 0, 1), `loads` as shares of the demand at peak, and what was `said` of
    how it was read.
    """

    name: str
    times: Array
    readings: Array
    loads: Array
    notes: tuple[str, ...] = ()

    @property
    def seconds(self) -> float:
        """How long it lasts [s]."""
        return float(self.times[-1])


SHIPPED = {
    "lap": "Lap of a circuit",
    "launch": "Standing start",
    "descent": "Descent with a side-slip",
}  # data/runs; each invented


def shipped(name: str) -> Drive:
    """A run that comes with the application."""
    return read_run(SHIPPED[name], text(f"{name}.csv"))


class WrongRun(ValueError):
    """A file that is no run, with what would be right."""


def read_run(name: str, text: str) -> Drive:
    """Read a run. Raises WrongRun with what is wrong, its line and what would be right.

    >>> run = read_run("lap", "ay (m/s2);time (s);ax (g)\\n4,903325;0,0;0,0\\n0;0,5;-0,6")
    >>> run.readings.tolist(), run.times.tolist()
    ([[0.0, 0.5, 1.0], [-0.6, 0.0, 1.0]], [0.0, 0.5])
    """
    if len(text) > MOST_LETTERS:
        raise WrongRun(f"The file is longer than {MOST_LETTERS:,} letters; keep every tenth row.")
    try:
        table = read_table(text)
    except ValueError as error:
        raise WrongRun(f"{error}.".capitalize()) from None
    if len(table.rows) < 2:
        raise WrongRun(
            "Give a line of headers and at least two rows, such as: time (s); ax (g); ay (g)"
        )
    if len(table.rows) > MOST_ROWS:
        raise WrongRun(f"More than {MOST_ROWS:,} rows; keep every tenth.")
    columns = _columns(table.heads)
    return _make_drive(name, _rows(table, columns), columns)


@dataclass(frozen=True)
class _DriveColumn:
    """A column that is read: its key in log_columns.csv, its header, the unit it is taken in and
    whether that was said.
    """

    key: str
    header: str
    unit: str
    said_unit: bool

    def value(self, number: float) -> float:
        """A figure of it: seconds, accelerations [g], shares."""
        scale = scale_of(self.key, self.unit)
        assert scale is not None
        value = number * scale[0] + scale[1]
        return value / GRAVITY if self.key in ACCELERATIONS else value


def _columns(heads: tuple[str, ...]) -> list[_DriveColumn | None]:
    out: list[_DriveColumn | None] = []
    for head in heads:
        key = known_column(head, "drive")
        if not key:
            out.append(None)
            continue
        row = by_name("log_columns")[key]
        words, unit = words_of(head)
        if unit and scale_of(key, unit) is None:
            known = "s, ms or min" if key == "time" else "%" if key == "load" else "g or m/s2"
            raise WrongRun(
                f"“{head[:40]}” names no unit known here; write it in brackets: {words[:20]} ({known})."
            )
        if any(c is not None and c.key == key for c in out):
            raise WrongRun(f"Two columns hold {key}; keep one.")
        out.append(_DriveColumn(key, head, unit or str(row["plain"]), bool(unit)))
    quantities = {c.key for c in out if c is not None}
    if "time" not in quantities:
        raise WrongRun("No column holds the time; name it time (s).")
    if not quantities & {"ahead", "left", "right"}:
        raise WrongRun(
            "No column holds an acceleration; name it ax (g) for ahead, ay (g) for to the left, az (g) for upward, or right (g)."
        )
    if {"left", "right"} <= quantities:
        raise WrongRun("One column says left and one right; keep one.")
    return out


def _rows(table: TextTable, columns: list[_DriveColumn | None]) -> list[dict[str, float]]:
    out = []
    for number, cells in table.rows:
        if misfit := table.misfit(cells):
            raise WrongRun(f"Line {number}: {misfit}.")
        row = {}
        for cell, column in zip(cells, columns, strict=True):
            if column is None:
                continue
            value = plain_number(cell)
            if value is None or not math.isfinite(value):
                raise WrongRun(
                    f"Line {number}: “{cell[:20]}” under “{column.header[:40]}” is not a number, in “{table.mark.join(cells)[:40]}”."
                )
            row[column.key] = column.value(value)
        out.append(row)
    return out


def _longest(rows: list[dict[str, float]], notes: list[str]) -> list[dict[str, float]]:
    """Of a file whose clock goes back now and then over what it told before, the longest of its
    runs; rows in any order are one run.
    """
    starts = [i for i, (a, b) in enumerate(pairwise(rows), start=1) if b["time"] < a["time"]]
    if not starts or len(starts) > FEW_BACK * len(rows):
        return rows
    runs = [rows[a:b] for a, b in pairwise([0, *starts, len(rows)])]
    in_order = sorted(runs, key=lambda run: run[0]["time"])
    if all(a[-1]["time"] <= b[0]["time"] for a, b in pairwise(in_order)):
        return rows  # one run, written in another order
    notes.append(
        f"the clock goes back {len(starts)} times: the longest of {len(runs)} runs is taken"
    )
    return max(runs, key=lambda run: run[-1]["time"] - run[0]["time"])


def _make_drive(
    name: str, rows: list[dict[str, float]], columns: list[_DriveColumn | None]
) -> Drive:
    notes = [
        f"“{c.header}” is {by_name('log_columns')[c.key]['words']}"
        + ("" if c.said_unit else f", taken in {c.unit}")
        for c in columns
        if c is not None
    ]
    rows = _longest(rows, notes)
    ordered = sorted(rows, key=lambda r: r["time"])
    rising = [r for i, r in enumerate(ordered) if i == 0 or r["time"] > ordered[i - 1]["time"]]
    if len(rising) < 2:
        raise WrongRun("All rows hold one time; a run needs at least two.")
    notes += (
        [f"{len(ordered) - len(rising)} rows of a time that was there already are left out"]
        if len(rising) < len(ordered)
        else []
    )
    times = np.array([r["time"] - rising[0]["time"] for r in rising])
    gap = float(np.diff(times).max())
    notes += (
        [f"the longest gap is {gap:.1f} s, bridged by a straight line"] if gap > LONG_GAP else []
    )
    ahead = np.array([r.get("ahead", 0.0) for r in rising])
    left = np.array([r["left"] if "left" in r else -r.get("right", 0.0) for r in rising])
    up = np.array([r.get("up", 1.0) for r in rising])
    if "up" in rising[0] and float(np.median(up)) < AT_REST:
        up = up + 1.0
        notes.append("the upward column reads 0 at rest: 1 g is added")
    readings = np.stack([ahead, left, up], 1)
    worst = float(np.abs(readings).max())
    if worst > MOST_G:
        raise WrongRun(
            f"{worst:.0f} g is more than any of these vehicles sees; is the column in m/s2? Change its header."
        )
    loads = np.clip(np.array([r.get("load", 1.0) for r in rising]), 0.0, 1.5)
    return Drive(name, times, readings, loads, tuple(notes))
