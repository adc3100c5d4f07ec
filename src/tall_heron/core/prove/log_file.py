"""A logger's file: columns in any order, units in headers or told once, commas or semicolons, gaps, doubles and clocks that go back; read in pieces, so that an hour at 50 Hz stays small."""

import csv
import re
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from itertools import islice, pairwise

import numpy as np

from tall_heron.core.base.catalogue import by_name, table
from tall_heron.core.base.constants import GRAVITY
from tall_heron.core.base.table_text import separator, words_and_unit
from tall_heron.core.base.units import QUANTITIES, parse
from tall_heron.core.physics.slosh import Array

MOST_BYTES, MOST_ROWS, MOST_COLUMNS = 60_000_000, 400_000, 200
PIECE = 20_000  # rows read at once
HEAD_WITHIN = 60  # lines in which the headers must come
LONG_GAP_S, GAP_TIMES = 1.0, 10.0  # what is a gap: longer than both, the second in usual steps
LEAST_ROWS = 10
NOTHING = {"", "-", "--", "---", "nan", "n/a", "na", "null", "none", "?"}
ABSOLUTE, GAUGE, OVER = "absolute", "gauge", "over the manifold"
CLOCK = re.compile(r"^(?:\d{4}-\d\d-\d\d[ T])?(?:(\d{1,2}):)?(\d{1,2}):(\d{1,2}(?:[.,]\d+)?)Z?$")
ACCELERATION = {"g": GRAVITY, "m/s2": 1.0, "m/s²": 1.0, "m/s^2": 1.0}
SHORT = {"psia": ("psi", ABSOLUTE), "psig": ("psi", GAUGE), "bara": ("bar", ABSOLUTE), "barg": ("bar", GAUGE), "kpaa": ("kpa", ABSOLUTE), "kpag": ("kpa", GAUGE), "inhg": ("inhg", "")}


class WrongLog(ValueError):
    """A file that is no log, with its line and column and what would be right."""


@dataclass(frozen=True)
class Column:
    """A column of a file: its place from 0, its header, what it holds (a row of log_columns.csv; empty: nothing that is read), its unit as a word and, of a pressure, what it counts from. `asks`
    what has to be told before it can be read: `unit`, `from` or nothing; what is taken meanwhile is a guess."""

    place: int
    header: str
    key: str
    unit: str
    counts: str = ""
    asks: tuple[str, ...] = ()


@dataclass(frozen=True)
class Head:
    """What stands above the figures: the mark that parts columns, the line of the headers from 1, lines to pass over after it, and the columns."""

    mark: str
    line: int
    passed: int
    columns: tuple[Column, ...]

    @property
    def questions(self) -> tuple[Column, ...]:
        """Columns that ask something."""
        return tuple(c for c in self.columns if c.asks)

    @property
    def signature(self) -> str:
        """What makes two files come from one logger: their headers."""
        return " | ".join(c.header for c in self.columns)


Told = Mapping[str, tuple[str, str, str]]  # by header: what the column holds, its unit, what it counts from


@dataclass(frozen=True)
class Log:
    """A log: `time` [s] from its first row; figures in SI by their column, pressures [Pa gauge], the rail's against the air, missing ones NaN; the places where a line breaks, since rows are missing
    or the clock went back; and what was `said` of how it was read."""

    time: Array
    figures: dict[str, Array]
    breaks: tuple[int, ...]
    columns: tuple[Column, ...]
    said: tuple[str, ...]

    @property
    def rate(self) -> float:
        """Rows a second, usually [Hz]."""
        steps = np.diff(self.time)
        steps = steps[steps > 0]
        return float(1 / np.median(steps)) if len(steps) else 0.0

    @property
    def seconds(self) -> float:
        """How long all its runs last [s], gaps left out."""
        return float(sum(self.time[b - 1] - self.time[a] for a, b in self.stretches()))

    def stretches(self) -> list[tuple[int, int]]:
        """From and to of each run without a break."""
        marks = [0, *self.breaks, len(self.time)]
        return [(a, b) for a, b in pairwise(marks) if b > a]


def text_of(data: bytes) -> str:
    """A file's text. Raises WrongLog for what is none."""
    if len(data) > MOST_BYTES:
        raise WrongLog(f"The file has {len(data) / 1e6:.0f} MB; up to {MOST_BYTES / 1e6:.0f} MB are read. Keep every second row, or part it.")
    for start, code in ((b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16")):
        if data.startswith(start):
            try:
                return data.decode(code)
            except UnicodeDecodeError as error:
                raise WrongLog(f"The file begins as UTF-16 and is broken at its byte {error.start}.") from None
    if b"\0" in data[:65536]:
        raise WrongLog(f"Line {data[: data.index(0)].count(10) + 1}, column 1: this is no text. Export the log as CSV first.")
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


def read_head(text: str, told: Told | None = None) -> Head:
    """What a file holds, by its headers, units and what was told. Raises WrongLog."""
    lines = list(islice(lines_of(text), HEAD_WITHIN))
    best: tuple[int, int, str, list[str]] | None = None
    for i, line in enumerate(lines):
        mark = separator(line)
        cells = _cells(line, mark)
        known = sum(1 for c in cells if _key(c, told))
        if len(cells) > 1 and known > (best[1] if best else 1 if not told else 0):
            best = i, known, mark, cells
    if best is None:
        first = next((x.strip()[:50] for x in lines if x.strip()), "")
        example = "time (s); rpm; MAP (kPa abs); rail (psi); volts"
        raise WrongLog(f"Line 1, column 1: no line of headers was found in the first {HEAD_WITHIN} lines, which begin “{first}”. Name the columns, such as: {example}.")
    i, _, mark, heads = best
    if len(heads) > MOST_COLUMNS:
        raise WrongLog(f"Line {i + 1}, column {MOST_COLUMNS + 1}: {len(heads)} columns are more than any logger writes.")
    below = _cells(lines[i + 1], mark) if i + 1 < len(lines) else []
    units = below if below and len(below) == len(heads) and any(c.strip() for c in below) and not any(_number(c) is not None or CLOCK.match(c.strip()) for c in below) else []
    columns = []
    for place, header in enumerate(heads):
        columns.append(_column(place, header, units[place] if units else "", told or {}))
    _once(columns, i + 1)
    return Head(mark, i + 1, 1 if units else 0, tuple(columns))


def _once(columns: list[Column], line: int) -> None:
    """What is read must be there, and once."""
    for key in {c.key for c in columns if c.key}:
        twins = [c for c in columns if c.key == key]
        if len(twins) > 1:
            words = str(by_name("log_columns")[key]["words"])
            raise WrongLog(f"Line {line}, column {twins[1].place + 1}: “{twins[1].header[:40]}” and “{twins[0].header[:40]}” both hold {words}; keep one.")
    keys = {c.key for c in columns}
    for key, why in (("time", "no column holds the time; name it time (s)"), ("rail", "no column holds the rail pressure; name it rail (kPa)")):
        if key not in keys:
            raise WrongLog(f"Line {line}, column 1: {why}.")
    if not {"duty", "manifold", "rpm"} & keys:
        raise WrongLog(f"Line {line}, column 1: nothing says what the engine asks for; log at least engine speed and manifold pressure, or injector duty.")


def _cells(line: str, mark: str) -> list[str]:
    try:
        return [c.strip().strip('"') for c in next(csv.reader([line.rstrip("\r\n")], delimiter=mark), [])]
    except csv.Error:
        return []


def _key(header: str, told: Told | None) -> str:
    if told and header in told:
        return told[header][0]
    words = _words(header)[0]
    return next((str(row["name"]) for row in table("log_columns") if re.match(str(row["pattern"]), words)), "")


def _words(header: str) -> tuple[str, str]:
    """A header's words in small letters and its unit: only what stands in brackets, or a last word that is a unit."""
    words, unit = words_and_unit(header)
    if "(" not in header and "[" not in header:
        low = unit.lower()
        known = low in SHORT or low in ACCELERATION or any(low in q.words for q in QUANTITIES.values())
        if not known or words == header:
            words, unit = header, ""
    return re.sub(r"\s+", " ", words).strip().lower(), unit.strip()


def _column(place: int, header: str, below: str, told: Told) -> Column:
    key = _key(header, told)
    if not key:
        return Column(place, header, "", "")
    row = by_name("log_columns")[key]
    if header in told:
        _, unit, counts = told[header]
        if key and scale_of(key, unit) is None:
            raise WrongLog(f"“{unit[:20]}” is no unit of {row['words']}.")
        return Column(place, header, key, unit, counts or (GAUGE if row["quantity"] == "pressure" else ""))
    words, unit = _words(header)
    unit = (unit or below.strip()).lower()
    counts = ""
    if row["quantity"] == "pressure":
        for word, what in (("abs", ABSOLUTE), ("absolute", ABSOLUTE), ("gauge", GAUGE), ("rel", GAUGE)):
            if re.search(rf"\b{word}\b", unit):
                counts, unit = what, re.sub(rf"\s*\b{word}\b\s*", "", unit).strip()
        if unit in SHORT:
            unit, counts = SHORT[unit][0], SHORT[unit][1] or counts
        if not counts and re.match(r"^(boost|ladedruck)", words):
            counts = GAUGE
        if not counts and "absolute" in words:
            counts = ABSOLUTE
    asks = []
    if scale_of(key, unit) is None:
        if unit:
            raise WrongLog(f"Column {place + 1}: “{unit[:20]}” in “{header[:40]}” is no unit of {row['words']} known here.")
        unit = str(row["plain"] or "")
        if not unit:
            asks.append("unit")
            unit = {"pressure": "kpa", "temperature": "c"}[str(row["quantity"])]
    if row["quantity"] == "pressure" and not counts:
        counts = ABSOLUTE if key == "manifold" else GAUGE
        if key == "manifold":
            asks.append("from")
    return Column(place, header, key, unit, counts, tuple(asks))


def scale_of(key: str, unit: str) -> tuple[float, float] | None:
    """What a figure in a unit is times in SI, and what comes on top; None where it is no unit of what the column holds."""
    quantity = str(by_name("log_columns")[key]["quantity"])
    unit = unit.lower().replace(" ", "")
    if quantity == "acceleration":
        return (ACCELERATION[unit], 0.0) if unit in ACCELERATION else None
    if key == "time" and unit == "ms":
        return 1e-3, 0.0
    if key == "rpm" and unit in ("1/min", "min-1", "u/min"):
        unit = "rpm"
    if unit not in QUANTITIES[quantity].words:
        return None
    if quantity == "speed":
        return (1.0, 0.0) if unit in ("rpm", "r/min") else (60.0, 0.0)  # kept in rpm, as a point has it
    try:
        zero, one = parse(f"0 {unit}", quantity, unit), parse(f"1 {unit}", quantity, unit)
    except ValueError:
        return None
    return one - zero, zero


def _number(cell: str) -> float | None:
    try:
        return float(cell.strip().replace(",", "."))
    except ValueError:
        return None


def read_log(text: str, head: Head, atmosphere: float, stop: Callable[[], bool] = lambda: False, done: Callable[[float], None] = lambda _: None) -> Log | None:
    """Read a file's figures; pressures that count from nothing less `atmosphere` [Pa]. `stop` ends it between pieces, and None comes back; `done` is told the share that is read. Raises WrongLog."""
    lines = lines_of(text)
    before = head.line + head.passed
    for _ in range(before):
        next(lines, "")
    used = [c for c in head.columns if c.key]
    pieces: dict[str, list[Array]] = {c.key: [] for c in used}
    said: list[str] = []
    rows, clock, letters = 0, False, 0
    short: tuple[int, int] | None = None
    while piece := list(islice(lines, PIECE)):
        if stop():
            return None
        if short is not None:
            raise WrongLog(_few(short, head))
        letters += sum(map(len, piece))
        quick = _quickly(piece, head, used)
        if quick is not None:
            rows += len(piece)
            for c, values in zip(used, quick, strict=True):
                pieces[c.key].append(values)
        else:
            kept, short = _taken_apart(piece, before, head)
            rows += len(kept)
            for c in used if kept else ():
                cells = [r[c.place] for _, r in kept]
                clock = clock or (c.key == "time" and CLOCK.match(cells[0].strip()) is not None)
                pieces[c.key].append(_clock(cells, kept, c) if clock and c.key == "time" else _figures(cells, kept, c, head.mark != ","))
        before += len(piece)
        if rows > MOST_ROWS:
            raise WrongLog(f"Line {before}, column 1: more than {MOST_ROWS:,} rows. Keep every second one, or part the file.")
        done(0.9 * letters / max(len(text), 1))
    if short is not None:
        said.append(f"line {short[0]}, the last, ends after {short[1]} of {len(head.columns)} cells and is left out")
    if rows < LEAST_ROWS:
        raise WrongLog(f"Line {before}, column 1: {rows} rows of figures are too few; give at least {LEAST_ROWS}.")
    figures = {key: np.concatenate(parts) for key, parts in pieces.items()}
    return _ordered(figures, used, atmosphere, said, clock)


def _quickly(piece: list[str], head: Head, used: list[Column]) -> list[Array] | None:
    """The figures of lines that hold nothing but numbers with a decimal point; None where one does not."""
    if not piece[0].strip():
        return None
    try:
        table = np.loadtxt(piece, delimiter=head.mark, comments=None, usecols=[c.place for c in used], ndmin=2)
    except ValueError:
        return None
    # loadtxt passes over empty lines and takes longer rows than the headers have
    if len(table) != len(piece) or {x.count(head.mark) + 1 for x in piece} != {len(head.columns)}:
        return None
    return [table[:, i].copy() for i in range(len(used))]


def _taken_apart(piece: list[str], before: int, head: Head) -> tuple[list[tuple[int, list[str]]], tuple[int, int] | None]:
    """The rows of some lines with their numbers, empty ones and remarks left out, and the last where it ends too soon. Raises WrongLog."""
    reader = csv.reader(piece, delimiter=head.mark)
    try:
        rows = list(reader)
    except csv.Error as error:
        raise WrongLog(f"Line {before + reader.line_num}, column 1: the row cannot be taken apart ({error}).") from None
    if len(rows) != len(piece):
        at = next((i for i, (line, row) in enumerate(zip(piece, rows, strict=False)) if any("\n" in c or "\r" in c for c in row) or line.count('"') % 2), 0)
        raise WrongLog(f"Line {before + at + 1}, column 1: a quoted cell runs on over several lines; a quotation mark is missing near there.")
    kept = [(n, r) for n, r in enumerate(rows, start=before + 1) if r and any(map(str.strip, r)) and not r[0].startswith("#")]
    for i, (n, r) in enumerate(kept):
        if len(r) == len(head.columns) or (len(r) == len(head.columns) + 1 and not r[-1].strip()):
            continue
        if i == len(kept) - 1 and len(r) < len(head.columns):
            return kept[:-1], (n, len(r))
        raise WrongLog(_few((n, len(r)), head))
    return kept, None


def _few(short: tuple[int, int], head: Head) -> str:
    n, cells = short
    hint = " A comma parts both columns and decimals: part the columns with semicolons." if head.mark == "," and cells > len(head.columns) else ""
    return f"Line {n}, column {min(cells, len(head.columns)) + 1}: {cells} cells under {len(head.columns)} headers.{hint}"


def _figures(cells: list[str], kept: list[tuple[int, list[str]]], c: Column, comma: bool) -> Array:
    try:
        return np.array(cells, dtype=float)
    except ValueError:
        pass
    out = np.empty(len(cells))
    for i, cell in enumerate(cells):
        word = cell.strip().strip('"')
        if word.lower() in NOTHING:
            out[i] = np.nan
            continue
        try:
            out[i] = float(word.replace(",", ".") if comma or word.count(",") == 1 else word)
        except ValueError:
            raise WrongLog(f"Line {kept[i][0]}, column {c.place + 1}: “{word[:20]}” under “{c.header[:40]}” is not a number.") from None
    return out


def _clock(cells: list[str], kept: list[tuple[int, list[str]]], c: Column) -> Array:
    out = np.empty(len(cells))
    for i, cell in enumerate(cells):
        match = CLOCK.match(cell.strip())
        if match is None:
            raise WrongLog(f"Line {kept[i][0]}, column {c.place + 1}: “{cell.strip()[:20]}” is no time of day, as those above are.")
        hours, minutes, seconds = match.groups()
        out[i] = 3600 * float(hours or 0) + 60 * float(minutes) + float(seconds.replace(",", "."))
    return out


def _ordered(figures: dict[str, Array], used: list[Column], atmosphere: float, said: list[str], clock: bool) -> Log:
    """In SI, doubles out, breaks found. Rows keep their order: a clock that goes back begins another run."""
    for c in sorted(used, key=lambda c: c.key != "manifold"):  # what counts over the manifold needs it
        row = by_name("log_columns")[c.key]
        scale = (1.0, 0.0) if c.key == "time" and clock else scale_of(c.key, c.unit)
        assert scale is not None
        values = figures[c.key] * scale[0] + scale[1]
        values[~np.isfinite(values)] = np.nan
        if row["quantity"] == "pressure" and c.counts == ABSOLUTE:
            values = values - atmosphere
        if row["quantity"] == "pressure" and c.counts == OVER:
            if "manifold" not in figures:
                raise WrongLog(f"Column {c.place + 1}: “{c.header[:40]}” counts over the manifold, and no column holds the manifold's pressure.")
            values = values + figures["manifold"]
        least, most = row["least"], row["most"]
        if c.key != "time" and least is not None:
            wrong = (values < float(least)) | (values > float(most))
            if wrong.sum() > 0.5 * np.isfinite(values).sum() > 0:
                raise WrongLog(f"Column {c.place + 1}: most figures under “{c.header[:40]}” cannot be {row['words']} in {c.unit}. Is it another unit?")
            if wrong.any():
                said.append(f"{int(wrong.sum())} figures of {row['words']} that cannot be are left out")
                values[wrong] = np.nan
        figures[c.key] = values
    time = figures.pop("time")
    sound = np.isfinite(time) & np.isfinite(figures["rail"])
    if not sound.all():
        said.append(f"{int((~sound).sum())} rows without a time or a rail pressure are left out")
    if sound.sum() < LEAST_ROWS:
        raise WrongLog("Fewer than ten rows hold both a time and a rail pressure.")
    time, figures = time[sound], {k: v[sound] for k, v in figures.items()}
    step = np.diff(time)
    double = np.concatenate([[False], step == 0])
    if double.any():
        said.append(f"{int(double.sum())} rows of a time that was there already are left out")
        time, figures = time[~double], {k: v[~double] for k, v in figures.items()}
        step = np.diff(time)
    if len(time) < LEAST_ROWS:
        raise WrongLog("All rows hold the same time.")
    forward = step[step > 0]
    if not len(forward):
        raise WrongLog("The time never goes forward.")
    usual = float(np.median(forward))
    if usual > 5:
        said.append(f"{usual:.0f} s lie between rows: is the time in milliseconds?")
    back, gap = step < 0, step > max(LONG_GAP_S, GAP_TIMES * usual)
    breaks = (np.flatnonzero(back | gap) + 1).tolist()
    if back.any():
        said.append(f"the clock goes back {int(back.sum())} times: another run begins at each")
    if gap.any():
        said.append(f"{int(gap.sum())} gaps, the longest {float(step[gap].max()):.1f} s; no line is drawn over them")
    whole = time.copy()
    if back.any():  # runs one after another, a second apart
        shift = np.zeros(len(time))
        shift[1:][back] = -step[back] + LONG_GAP_S
        whole = time + np.cumsum(shift)
    return Log(whole - whole[0], figures, tuple(breaks), tuple(used), tuple(said))
