"""What stands above a logger's figures: where its headers are, what each column holds, in which
unit, and what has to be told before it can be read.
"""

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from itertools import islice

from tall_heron.core.base.catalogue import by_name, table
from tall_heron.core.base.log_columns import (
    ABSOLUTE,
    GAUGE,
    SHORT,
    cells_of,
    known_column,
    scale_of,
    spellings,
    words_of,
)
from tall_heron.core.base.table_text import LONGEST_HEAD, MOST_COLUMNS, plain_number, separator

MOST_BYTES = 60_000_000
HEAD_WITHIN = 60  # lines in which the headers must come
OVER = "over the manifold"
CLOCK = re.compile(r"^(?:\d{4}-\d\d-\d\d[ T])?(?:(\d{1,2}):)?(\d{1,2}):(\d{1,2}(?:[.,]\d+)?)Z?$")


class WrongLog(ValueError):
    """A file that is no log, with its line and column and what would be right."""


@dataclass(frozen=True)
class LogColumn:
    """A column of a file: its place from 0, its header, what it holds (a row of log_columns.csv;
    empty: nothing that is read), its unit as a word and, of a pressure, what it counts from. `asks`
    what has to be told before it can be read: `unit`, `from` or nothing; what is taken meanwhile is
    a guess. `why` says of one that is not read what it is, and why not.
    """

    place: int
    header: str
    key: str
    unit: str
    counts: str = ""
    asks: tuple[str, ...] = ()
    why: str = ""


@dataclass(frozen=True)
class Head:
    """What stands above the figures: the mark that parts columns, the line of the headers from 1,
    lines to pass over after it, and the columns.
    """

    mark: str
    line: int
    passed: int
    columns: tuple[LogColumn, ...]

    @property
    def questions(self) -> tuple[LogColumn, ...]:
        """Columns that ask something."""
        return tuple(c for c in self.columns if c.asks)

    @property
    def signature(self) -> str:
        """What makes two files come from one logger: their headers."""
        return " | ".join(c.header for c in self.columns)


ColumnMap = Mapping[
    str, tuple[str, str, str]
]  # by header: what the column holds, its unit, what it counts from


def text_of(data: bytes) -> str:
    """A file's text. Raises WrongLog for what is none."""
    if len(data) > MOST_BYTES:
        raise WrongLog(
            f"The file has {len(data) / 1e6:.0f} MB; up to {MOST_BYTES / 1e6:.0f} MB are read. Keep every second row, or part it."
        )
    for start, code in ((b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16")):
        if data.startswith(start):
            try:
                return data.decode(code)
            except UnicodeDecodeError as error:
                raise WrongLog(
                    f"The file begins as UTF-16 and is broken at its byte {error.start}."
                ) from None
    if b"\0" in data[:65536]:
        raise WrongLog(
            f"Line {data[: data.index(0)].count(10) + 1}, column 1: this is no text. Export the log as CSV first."
        )
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        return data.decode("latin-1")


def lines_of(text: str) -> Iterator[str]:
    """The lines of a text one after another, with their ends, without a second copy of it all."""
    at = 0
    while at < len(text):
        end = text.find("\n", at) + 1 or len(text)
        yield text[at:end]
        at = end


def read_head(text: str, column_map: ColumnMap | None = None) -> Head:
    """What a file holds, by its headers, units and what was told. Raises WrongLog."""
    lines = list(islice(lines_of(text), HEAD_WITHIN))
    best: tuple[int, int, str, list[str]] | None = None
    for i, line in enumerate(lines):
        mark = separator(line)
        cells = cells_of(line, mark)
        known = sum(1 for c in cells[: MOST_COLUMNS + 1] if _key(c, column_map))
        if len(cells) > 1 and known > (best[1] if best else 1 if not column_map else 0):
            best = i, known, mark, cells
    if best is None:
        first = next((x.strip()[:50] for x in lines if x.strip()), "")
        example = "time (s); rpm; MAP (kPa abs); rail (psi); volts"
        raise WrongLog(
            f"Line 1, column 1: no line of headers was found in the first {HEAD_WITHIN} lines, which begin “{first}”. Name the columns, such as: {example}."
        )
    i, _, mark, heads = best
    if len(heads) > MOST_COLUMNS:
        raise WrongLog(
            f"Line {i + 1}, column {MOST_COLUMNS + 1}: {len(heads)} columns are more than any logger writes."
        )
    below = cells_of(lines[i + 1], mark) if i + 1 < len(lines) else []
    units = (
        below
        if below
        and len(below) == len(heads)
        and any(c.strip() for c in below)
        and not any(plain_number(c) is not None or CLOCK.match(c.strip()) for c in below)
        else []
    )
    columns = []
    for place, header in enumerate(heads):
        columns.append(_column(place, header, units[place] if units else "", column_map or {}))
    columns = _best_of_twins(columns, column_map or {})
    _once(columns, i + 1)
    return Head(mark, i + 1, 1 if units else 0, tuple(columns))


def _best_of_twins(columns: list[LogColumn], column_map: ColumnMap) -> list[LogColumn]:
    """The columns with those left unread that hold what a better one holds: one that asks less,
    else the first. What somebody told stays.
    """
    best: dict[str, LogColumn] = {}
    for c in columns:
        if c.key and (
            c.key not in best
            or (c.header in column_map, -len(c.asks))
            > (best[c.key].header in column_map, -len(best[c.key].asks))
        ):
            best[c.key] = c
    return [
        c
        if not c.key or best[c.key] is c or c.header in column_map
        else replace(
            c,
            key="",
            unit="",
            counts="",
            asks=(),
            why=f"the same as “{best[c.key].header}”, which is read",
        )
        for c in columns
    ]


def _why_not(header: str) -> str:
    """What a column is that is not read, and why not."""
    row = next(
        (
            r
            for r in table("log_others")
            for words in spellings(header)
            if re.match(str(r["pattern"]), words)
        ),
        None,
    )
    return f"{row['words']}: {row['why']}" if row is not None else "not known here"


def _once(columns: list[LogColumn], line: int) -> None:
    """What is read must be there, and once."""
    for key in {c.key for c in columns if c.key}:
        twins = [c for c in columns if c.key == key]
        if len(twins) > 1:
            words = str(by_name("log_columns")[key]["words"])
            raise WrongLog(
                f"Line {line}, column {twins[1].place + 1}: “{twins[1].header[:40]}” and “{twins[0].header[:40]}” both hold {words}; keep one."
            )
    keys = {c.key for c in columns}
    for key, why in (
        ("time", "no column holds the time; name it time (s)"),
        ("rail", "no column holds the rail pressure; name it rail (kPa)"),
    ):
        if key not in keys:
            raise WrongLog(f"Line {line}, column 1: {why}.")
    if not {"duty", "manifold", "rpm"} & keys:
        raise WrongLog(
            f"Line {line}, column 1: nothing gives the engine's demand; log at least engine speed and manifold pressure, or injector duty."
        )


def _key(header: str, column_map: ColumnMap | None) -> str:
    return (
        column_map[header][0]
        if column_map and header in column_map
        else known_column(header, "log")
    )


def _column(place: int, header: str, below: str, column_map: ColumnMap) -> LogColumn:
    key = _key(header, column_map)
    if not key:
        return LogColumn(
            place,
            header,
            "",
            "",
            why="left out, as you said" if header in column_map else _why_not(header),
        )
    row = by_name("log_columns")[key]
    if header in column_map:
        _, unit, counts = column_map[header]
        if key and scale_of(key, unit) is None:
            raise WrongLog(f"“{unit[:20]}” is no unit of {row['words']}.")
        return LogColumn(
            place, header, key, unit, counts or (GAUGE if row["quantity"] == "pressure" else "")
        )
    words, unit = words_of(header)
    unit = (unit or below[:LONGEST_HEAD].strip()).lower()
    counts = ""
    if row["quantity"] == "pressure":
        for word, what in (
            ("abs", ABSOLUTE),
            ("absolute", ABSOLUTE),
            ("gauge", GAUGE),
            ("rel", GAUGE),
        ):
            if re.search(rf"\b{word}\b", unit):
                counts, unit = what, " ".join(re.sub(rf"\b{word}\b", "", unit).split())
        if unit in SHORT:
            unit, counts = SHORT[unit][0], SHORT[unit][1] or counts
        if not counts and re.match(r"^(boost|ladedruck)", words):
            counts = GAUGE
        if not counts and "absolute" in words:
            counts = ABSOLUTE
    asks = []
    if scale_of(key, unit) is None:
        if unit:
            raise WrongLog(
                f"Column {place + 1}: “{unit[:20]}” in “{header[:40]}” is no unit of {row['words']} known here."
            )
        unit = str(row["plain"] or "")
        if not unit:
            asks.append("unit")
            unit = {"pressure": "kpa", "temperature": "c"}[str(row["quantity"])]
    if row["quantity"] == "pressure" and not counts:
        counts = ABSOLUTE if key == "manifold" else GAUGE
        if key == "manifold":
            asks.append("from")
    return LogColumn(place, header, key, unit, counts, tuple(asks))
