"""Wires and fuel solved together: the point of a moment with every pump's wires in it, and again
where pumps share a wire, until what they draw is what it was taken for.
"""

from collections.abc import Callable, Mapping
from typing import TypeVar

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.document.point import Point
from tall_heron.core.electrics.harness import Harness

CLOSE = 1.5e-4  # V, a hundred-thousandth of what a pump gets
MOST = 12
LEAST = 0.01  # V, what a source is taken to have at least


def wired(point: Point, harness: Harness, more: Mapping[str, float]) -> Point:
    """The point with the wires of each pump; its voltage is that of the source. What pumps share, a
    relay or a ground point, is in the resistance of each, so many times as all together draw of what
    it draws itself: once, and `more` for what the others draw through it [ohm]. A pump that nobody
    has wired, or whose sheet says no current, loses what the house assumes.
    """
    source = point.voltage_at("")
    if source is None:
        return point
    volts = {
        p: max(source - house_figure("voltage_wiring_loss"), LEAST) for p in harness.unwired
    } | dict.fromkeys(harness.feeds, source)
    ohms = {p: feed.own + harness.shared(p) + more.get(p, 0.0) for p, feed in harness.feeds.items()}
    return point.model_copy(update={"voltage_v": volts, "wire_ohm": ohms})


S = TypeVar("S")


def settle(
    point: Point, harness: Harness, solve: Callable[[Point], S], current: Callable[[S, str], float]
) -> S:
    """The solution at which pumps that share a wire draw what each was reckoned with. `solve`
    solves a point, `current` reads what a pump draws in a solution [A]. Twins are right at once.
    """
    together = [p for p in harness.feeds if harness.beside(p) and p not in point.off]
    drawn = {p: harness.feeds[p].highest for p in together}

    def more(pump: str) -> float:
        """What the others' current makes of each shared resistance [ohm]; what they draw of what it
        draws in steps so small that they do not tell and so large that twins stay twins.
        """
        return sum(
            ohm * round(sum(drawn.get(q, 0.0) for q in others) / max(drawn[pump], LEAST), 5)
            for ohm, others in harness.shares(pump)
        )

    taken = {p: more(p) for p in together}
    solution = solve(wired(point, harness, taken))
    for _ in range(MOST if together else 0):
        drawn = {p: current(solution, p) for p in together}
        wrong = max(drawn[p] * abs(more(p) - taken[p]) for p in together)
        if wrong < CLOSE:
            break
        taken = {p: more(p) for p in together}
        solution = solve(wired(point, harness, taken))
    return solution
