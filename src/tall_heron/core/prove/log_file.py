"""A logger's file: columns in any order, units in headers or told once, commas or semicolons, gaps,
doubles and clocks that go back; read in pieces, so that an hour at 50 Hz stays small.
"""

import csv
from collections.abc import Callable
from dataclasses import dataclass
from itertools import islice, pairwise

import numpy as np

from tall_heron.core.base.catalogue import by_name
from tall_heron.core.base.log_columns import ABSOLUTE, scale_of
from tall_heron.core.physics.slosh import Array
from tall_heron.core.prove.log_head import (
    CLOCK,
    OVER,
    Head,
    LogColumn,
    WrongLog,
    lines_of,
)

MOST_ROWS = 400_000
PIECE = 20_000  # rows read at once
LONG_GAP_S, GAP_TIMES = 1.0, 10.0  # what is a gap: longer than both, the second in usual steps
LEAST_ROWS = 10
NOTHING = {"", "-", "--", "---", "nan", "n/a", "na", "null", "none", "?"}


@dataclass(frozen=True)
class Log:
    """A log: `time` [s] from its first row; figures in SI by their column, pressures [Pa gauge],
    the rail's against the air, missing ones NaN; the places where a line breaks, since rows are
    missing or the clock went back; and what was `said` of how it was read.
    """

    time: Array
    figures: dict[str, Array]
    breaks: tuple[int, ...]
    columns: tuple[LogColumn, ...]
    notes: tuple[str, ...]

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


def read_log(
    text: str,
    head: Head,
    atmosphere: float,
    stop: Callable[[], bool] = lambda: False,
    done: Callable[[float], None] = lambda _: None,
) -> Log | None:
    """Read a file's figures; pressures that count from nothing less `atmosphere` [Pa]. `stop` ends
    it between pieces, and None comes back; `done` is told the share that is read. Raises WrongLog.
    """
    lines = lines_of(text)
    before = head.line + head.passed
    for _ in range(before):
        next(lines, "")
    used = [c for c in head.columns if c.key]
    pieces: dict[str, list[Array]] = {c.key: [] for c in used}
    notes: list[str] = []
    rows, has_clock, letters = 0, False, 0
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
            rows_left, short = _taken_apart(piece, before, head)
            rows += len(rows_left)
            for c in used if rows_left else ():
                cells = [r[c.place] for _, r in rows_left]
                has_clock = has_clock or (
                    c.key == "time" and CLOCK.match(cells[0].strip()) is not None
                )
                pieces[c.key].append(
                    _clock(cells, rows_left, c)
                    if has_clock and c.key == "time"
                    else _figures(cells, rows_left, c, head.mark != ",")
                )
        before += len(piece)
        if rows > MOST_ROWS:
            raise WrongLog(
                f"Line {before}, column 1: more than {MOST_ROWS:,} rows. Keep every second one, or part the file."
            )
        done(0.9 * letters / max(len(text), 1))
    if short is not None:
        notes.append(
            f"line {short[0]}, the last, ends after {short[1]} of {len(head.columns)} cells and is left out"
        )
    if rows < LEAST_ROWS:
        raise WrongLog(
            f"Line {before}, column 1: {rows} rows of figures are too few; give at least {LEAST_ROWS}."
        )
    figures = {key: np.concatenate(parts) for key, parts in pieces.items()}
    return _ordered(figures, used, atmosphere, notes, has_clock)


def _quickly(piece: list[str], head: Head, used: list[LogColumn]) -> list[Array] | None:
    """The figures of lines that hold nothing but numbers with a decimal point; None where one does
    not.
    """
    if not piece[0].strip():
        return None
    try:
        table = np.loadtxt(
            piece, delimiter=head.mark, comments=None, usecols=[c.place for c in used], ndmin=2
        )
    except ValueError:
        return None
    # loadtxt passes over empty lines and takes longer rows than the headers have
    if len(table) != len(piece) or {x.count(head.mark) + 1 for x in piece} != {len(head.columns)}:
        return None
    return [table[:, i].copy() for i in range(len(used))]


def _taken_apart(
    piece: list[str], before: int, head: Head
) -> tuple[list[tuple[int, list[str]]], tuple[int, int] | None]:
    """The rows of some lines with their numbers, empty ones and remarks left out, and the last
    where it ends too soon. Raises WrongLog.
    """
    reader = csv.reader(piece, delimiter=head.mark)
    try:
        rows = list(reader)
    except csv.Error as error:
        raise WrongLog(
            f"Line {before + reader.line_num}, column 1: the row cannot be taken apart ({error})."
        ) from None
    if len(rows) != len(piece):
        at = next(
            (
                i
                for i, (line, row) in enumerate(zip(piece, rows, strict=False))
                if any("\n" in c or "\r" in c for c in row) or line.count('"') % 2
            ),
            0,
        )
        raise WrongLog(
            f"Line {before + at + 1}, column 1: a quoted cell runs on over several lines; a quotation mark is missing near there."
        )
    rows_left = [
        (n, r)
        for n, r in enumerate(rows, start=before + 1)
        if r and any(map(str.strip, r)) and not r[0].startswith("#")
    ]
    for i, (n, r) in enumerate(rows_left):
        if len(r) == len(head.columns) or (len(r) == len(head.columns) + 1 and not r[-1].strip()):
            continue
        if i == len(rows_left) - 1 and len(r) < len(head.columns):
            return rows_left[:-1], (n, len(r))
        raise WrongLog(_few((n, len(r)), head))
    return rows_left, None


def _few(short: tuple[int, int], head: Head) -> str:
    n, cells = short
    hint = (
        " A comma parts both columns and decimals: part the columns with semicolons."
        if head.mark == "," and cells > len(head.columns)
        else ""
    )
    return f"Line {n}, column {min(cells, len(head.columns)) + 1}: {cells} cells under {len(head.columns)} headers.{hint}"


def _figures(
    cells: list[str], rows_left: list[tuple[int, list[str]]], c: LogColumn, comma: bool
) -> Array:
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
            raise WrongLog(
                f"Line {rows_left[i][0]}, column {c.place + 1}: “{word[:20]}” under “{c.header[:40]}” is not a number."
            ) from None
    return out


def _clock(cells: list[str], rows_left: list[tuple[int, list[str]]], c: LogColumn) -> Array:
    out = np.empty(len(cells))
    for i, cell in enumerate(cells):
        match = CLOCK.match(cell.strip())
        if match is None:
            raise WrongLog(
                f"Line {rows_left[i][0]}, column {c.place + 1}: “{cell.strip()[:20]}” is no time of day, as those above are."
            )
        hours, minutes, seconds = match.groups()
        out[i] = 3600 * float(hours or 0) + 60 * float(minutes) + float(seconds.replace(",", "."))
    return out


def _ordered(
    figures: dict[str, Array],
    used: list[LogColumn],
    atmosphere: float,
    notes: list[str],
    has_clock: bool,
) -> Log:
    """In SI, doubles out, breaks found. Rows keep their order: a clock that goes back begins
    another run.
    """
    for c in sorted(
        used, key=lambda c: c.key != "manifold"
    ):  # what counts over the manifold needs it
        row = by_name("log_columns")[c.key]
        scale = (1.0, 0.0) if c.key == "time" and has_clock else scale_of(c.key, c.unit)
        assert scale is not None
        values = figures[c.key] * scale[0] + scale[1]
        values[~np.isfinite(values)] = np.nan
        if row["quantity"] == "pressure" and c.counts == ABSOLUTE:
            values = values - atmosphere
        if row["quantity"] == "pressure" and c.counts == OVER:
            if "manifold" not in figures:
                raise WrongLog(
                    f"Column {c.place + 1}: “{c.header[:40]}” counts over the manifold, and no column holds the manifold's pressure."
                )
            values = values + figures["manifold"]
        least, most = row["least"], row["most"]
        if c.key != "time" and least is not None:
            wrong = (values < float(least)) | (values > float(most))
            if wrong.sum() > 0.5 * np.isfinite(values).sum() > 0:
                raise WrongLog(
                    f"Column {c.place + 1}: most figures under “{c.header[:40]}” cannot be {row['words']} in {c.unit}. Is it another unit?"
                )
            if wrong.any():
                notes.append(
                    f"{int(wrong.sum())} figures of {row['words']} that cannot be are left out"
                )
                values[wrong] = np.nan
        figures[c.key] = values
    time = figures.pop("time")
    sound = np.isfinite(time) & np.isfinite(figures["rail"])
    if not sound.all():
        notes.append(f"{int((~sound).sum())} rows without a time or a rail pressure are left out")
    if sound.sum() < LEAST_ROWS:
        raise WrongLog("Fewer than ten rows hold both a time and a rail pressure.")
    time, figures = time[sound], {k: v[sound] for k, v in figures.items()}
    step = np.diff(time)
    double = np.concatenate([[False], step == 0])
    if double.any():
        notes.append(f"{int(double.sum())} rows of a time that was there already are left out")
        time, figures = time[~double], {k: v[~double] for k, v in figures.items()}
        step = np.diff(time)
    if len(time) < LEAST_ROWS:
        raise WrongLog("All rows hold the same time.")
    forward = step[step > 0]
    if not len(forward):
        raise WrongLog("The time never goes forward.")
    usual = float(np.median(forward))
    if usual > 5:
        notes.append(f"{usual:.0f} s lie between rows: is the time in milliseconds?")
    back, gap = step < 0, step > max(LONG_GAP_S, GAP_TIMES * usual)
    breaks = (np.flatnonzero(back | gap) + 1).tolist()
    if back.any():
        notes.append(f"the clock goes back {int(back.sum())} times: another run begins at each")
    if gap.any():
        notes.append(
            f"{int(gap.sum())} gaps, the longest {float(step[gap].max()):.1f} s; no line is drawn over them"
        )
    whole = time.copy()
    if back.any():  # runs one after another, a second apart
        shift = np.zeros(len(time))
        shift[1:][back] = -step[back] + LONG_GAP_S
        whole = time + np.cumsum(shift)
    return Log(whole - whole[0], figures, tuple(breaks), tuple(used), tuple(notes))
