"""What the bench measures with, and its table: each row beside its bar.

A time counts in milliseconds of the machine that the bars were set on, so that a slow one does not
fail: a loop of additions is timed before and after each row, and the row is divided by how much
longer that takes here.
"""

import statistics
import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

LOOP_MS = 110.0  # five million additions on the machine that the bars were set on (from memory)


@dataclass(frozen=True)
class Row:
    """One figure: `value` of `unit` must be no more than `bar`; without a bar it is told only."""

    name: str
    value: float
    bar: float | None
    unit: str

    @property
    def over(self) -> bool:
        """Whether it is more than it may be."""
        return self.bar is not None and self.value > self.bar

    def __str__(self) -> str:
        bar = "" if self.bar is None else f"   bar {self.bar:g}"
        return (
            f"{self.name:<62}{self.value:9.2f} {self.unit:<4}{bar}{'   OVER' if self.over else ''}"
        )


def loop_ms() -> float:
    """What the loop takes here [ms], the least of three."""
    return min(wall(lambda: sum(range(5_000_000))) for _ in range(3))


def wall(action: Callable[[], Any]) -> float:
    """How long an action takes [ms]."""
    begin = time.perf_counter()
    action()
    return (time.perf_counter() - begin) * 1000


def cpu(action: Callable[[], Any]) -> float:
    """The CPU an action takes [ms]: what else the machine does adds little to it."""
    begin = time.process_time()
    action()
    return (time.process_time() - begin) * 1000


class Table:
    """Rows as they are measured, each printed at once."""

    def __init__(self) -> None:
        self.rows: list[Row] = []
        self.before = loop_ms()

    def add(self, name: str, value: float, bar: float | None, unit: str = "x") -> None:
        """A ratio, a size or a count."""
        self.rows.append(Row(name, value, bar, unit))
        print(self.rows[-1], flush=True)

    def time(self, name: str, taken: list[float], bar: float | None, least: bool = False) -> None:
        """The median of times [ms], or the least, in milliseconds of the machine of the bars."""
        after = loop_ms()
        slower = (self.before + after) / 2 / LOOP_MS
        self.before = after
        value = min(taken) if least else statistics.median(taken)
        self.add(name, value / slower, bar, "ms")

    @property
    def over(self) -> list[Row]:
        """The rows that are more than they may be."""
        return [row for row in self.rows if row.over]


def exponent(sizes: list[int], times: list[float]) -> float:
    """The power of its size that a time goes with, by least squares over logarithms."""
    import numpy as np

    return float(np.polyfit(np.log(sizes), np.log(times), 1)[0])
