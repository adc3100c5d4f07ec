"""A pump's points as typed or as a maker's CSV: units in the headers, columns and rows in any
order, decimal comma or point.
"""

import itertools
import re
from dataclasses import dataclass

from pydantic import ValidationError

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.base.constants import LPH
from tall_heron.core.base.table_text import TextTable, plain_number, read_table, words_and_unit
from tall_heron.core.base.units import QUANTITIES, parse, show
from tall_heron.core.document.figures import Curve

MOST_ROWS, MOST_CHARACTERS = 400, 40_000
COLUMNS = {
    "volume_flow": "flow",
    "pressure": "pressure",
    "current": "current",
    "voltage": "voltage",
}
_NUMBER = re.compile(r"[-+−]?\d+(?:[.,]\d+)?(?:[eE][-+]?\d+)?")
ALTERNATIVES = {"pressure": ("kpa", "psi", "bar"), "volume_flow": ("l/h", "l/min", "gph", "cc/min")}


@dataclass(frozen=True)
class Problem:
    """What is wrong with a curve, and on which line of the text (0: all of it)."""

    line: int
    message: str


@dataclass(frozen=True)
class CurveTable:
    """The curves read, by voltage; how each column was read; and what is wrong. With anything wrong
    there are no curves.
    """

    curves: tuple[Curve, ...]
    notes: tuple[str, ...]
    wrong: tuple[Problem, ...]


@dataclass(frozen=True)
class _Column:
    quantity: str
    unit: str
    title: str


def read_curves(text: str, voltage: float) -> CurveTable:
    """Read a table of flow, pressure and, where given, current and voltage; `voltage` [V] holds for all rows where no column says.

    >>> t = read_curves("pressure (bar); flow (L/h)\\n3,0; 255\\n0; 340\\n5,5; 0", 13.5)
    >>> [[round(x) for x in row] for row in t.curves[0].rows], t.wrong
    ([[0, 550], [255, 300], [340, 0]], ())
    """
    if len(text) > MOST_CHARACTERS:
        return _refused(
            0,
            f"the table is longer than {MOST_CHARACTERS:,} characters; a pump's sheet has a few dozen points",
        )
    try:
        table = read_table(text)
    except ValueError as error:
        return _refused(0, str(error))
    if len(table.rows) < 2:
        return _refused(
            0, "give a line of headers and at least two points, such as: flow (L/h); pressure (kPa)"
        )
    if len(table.rows) >= MOST_ROWS:
        return _refused(0, f"more than {MOST_ROWS} points; give every tenth")
    columns, wrong = [], []
    for head in table.heads:
        column, message = _read_header(head)
        columns.append(column)
        if message:
            wrong.append(Problem(table.line, message))
    quantities = [c.quantity for c in columns if c]
    for quantity in ("volume_flow", "pressure"):
        if quantities.count(quantity) != 1 and not wrong:
            word = COLUMNS[quantity]
            many = (
                f"{quantities.count(quantity)} columns hold {word}"
                if quantity in quantities
                else f"no column holds {word}"
            )
            wrong.append(
                Problem(
                    table.line,
                    f"{many}; give one, with its unit, such as {word} ({'L/h' if word == 'flow' else 'kPa'})",
                )
            )
    if wrong:
        return CurveTable((), (), tuple(wrong))
    rows, wrong = _read_rows(table, columns, voltage)
    notes = tuple(f"“{c.title}” is {COLUMNS[c.quantity]} in {c.unit}" for c in columns if c)
    if not wrong:
        wrong = _implausible(rows, columns)
    if wrong:
        return CurveTable((), notes, tuple(wrong))
    return _curves(rows, notes)


def _refused(line: int, message: str) -> CurveTable:
    return CurveTable((), (), (Problem(line, message),))


def _read_header(head: str) -> tuple[_Column | None, str]:
    words, unit = words_and_unit(head)
    key = unit.strip().lower().replace(" ", "").replace("·", "")
    if key in ("a", "amp", "amps", "ampere"):
        return _Column("current", "A", head), ""
    for quantity in ("volume_flow", "pressure", "voltage"):
        if key in QUANTITIES[quantity].words:
            return _Column(quantity, key, head), ""
        if key in QUANTITIES[quantity].ambiguous and quantity == "volume_flow":
            return None, f"“{head}”: {QUANTITIES[quantity].ambiguous[key]}"
    if re.search(r"flow|press|curr|volt|amp", words.lower()):
        return (
            None,
            f"“{head}” names no unit known here; write it in brackets, such as flow (L/h), pressure (kPa), current (A)",
        )
    return None, "" if words else f"a column has no header; the headers are {head!r}"


Row = tuple[int, dict[str, float]]


def _read_rows(
    table: TextTable, columns: list[_Column | None], voltage: float
) -> tuple[list[Row], list[Problem]]:
    rows, wrong = [], []
    for line, cells in table.rows:
        if misfit := table.misfit(cells):
            wrong.append(Problem(line, misfit))
            continue
        values = {"voltage": voltage}
        for plain, column in zip(cells, columns, strict=True):
            if column is None:
                continue
            if not _NUMBER.fullmatch(plain):
                wrong.append(Problem(line, f"“{plain}” under “{column.title}” is not a number"))
                break
            if column.quantity == "current":
                values["current"] = plain_number(plain) or 0.0
            else:
                try:
                    values[column.quantity] = parse(
                        f"{plain} {column.unit}", column.quantity, column.unit
                    )
                except ValueError as error:
                    wrong.append(
                        Problem(
                            line,
                            f"“{plain[:SHOWN]}” under “{column.title}”: {error}".removesuffix("."),
                        )
                    )
                    break
        else:
            rows.append((line, values))
    return rows, wrong[:5]


SHOWN = 30  # letters of a cell that cannot be read


def _implausible(rows: list[Row], columns: list[_Column | None]) -> list[Problem]:
    """A wrong unit shows in the size of the figures: say which unit would make them a fuel pump's."""
    wrong = []
    for quantity, least, most in (
        ("pressure", house_figure("pump_pressure_least"), house_figure("pump_pressure_most")),
        (
            "volume_flow",
            house_figure("pump_flow_least") * LPH,
            house_figure("pump_flow_most") * LPH,
        ),
    ):
        line, values = max(rows, key=lambda row: row[1][quantity])
        value = values[quantity]
        if least <= value <= most:
            continue
        column = next(c for c in columns if c and c.quantity == quantity)
        plain = show(value, quantity, column.unit)
        fits = [
            u
            for u in ALTERNATIVES[quantity]
            if least <= parse(f"{plain:.9f} {u}", quantity, u) <= most and u != column.unit
        ]
        hint = f" Is the column in {' or '.join(fits)}? Change the header." if fits else ""
        size = "more than any fuel pump gives" if value > most else "too little for a fuel pump"
        wrong.append(Problem(line, f"{plain:g} {column.unit} is {size}.{hint}"))
    return wrong


def _curves(rows: list[Row], notes: tuple[str, ...]) -> CurveTable:
    curves, wrong = [], []
    for volts, group in itertools.groupby(
        sorted(rows, key=lambda r: (r[1]["voltage"], r[1]["volume_flow"])),
        key=lambda r: r[1]["voltage"],
    ):
        points = list(group)
        with_current = all("current" in values for _, values in points)
        for (_, a), (line, b) in itertools.pairwise(points):
            q, p = b["volume_flow"] / LPH, b["pressure"] / 1000
            if b["volume_flow"] == a["volume_flow"]:
                wrong.append(Problem(line, f"two points at {q:.0f} L/h and {volts:g} V: keep one"))
            elif b["pressure"] >= a["pressure"]:
                way = (
                    "the same pressure at more flow"
                    if b["pressure"] == a["pressure"]
                    else "more pressure at more flow"
                )
                wrong.append(
                    Problem(
                        line,
                        f"{p:.0f} kPa at {q:.0f} L/h is {way}; a pump's pressure falls as its flow rises",
                    )
                )
        table = [
            [
                values["volume_flow"] / LPH,
                values["pressure"] / 1000,
                *([values["current"]] if with_current else []),
            ]
            for _, values in points
        ]
        if wrong:
            continue
        try:
            curves.append(Curve(voltage_v=volts, rows=table))
        except ValidationError as error:
            message = error.errors()[0]["msg"].removeprefix("Value error, ")
            wrong.append(Problem(points[0][0], f"at {volts:g} V: {message}"))
    return CurveTable(() if wrong else tuple(curves), notes, tuple(wrong[:5]))
