"""The suction map as contours: temperature over altitude, lines of equal margin, and where the
cases of the build lie.
"""

from collections.abc import Callable
from dataclasses import dataclass

from tall_heron.core.base.constants import CELSIUS
from tall_heron.core.physics.suction import altitude_of
from tall_heron.core.study.cases.moments import solved_moments
from tall_heron.core.study.cases.suction_map import ALTITUDES, TEMPERATURES, SuctionMap, contour
from tall_heron.core.study.study import Study
from tall_heron.web.drawing.labels import PlacedLabel, Placer
from tall_heron.web.show.text import shown

WIDTH, HEIGHT, LEFT, RIGHT, TOP, BOTTOM = 1180.0, 400.0, 64.0, 170.0, 16.0, 356.0
DOT = 5.0  # px, the radius of a case's dot


@dataclass(frozen=True)
class Contour:
    """A line of equal margin: its points, its class, what it says at its end and where."""

    points: str
    style: str
    text: str
    x: float
    y: float


@dataclass(frozen=True)
class Contours:
    """The picture: bands as (corners, class), what lies above each line in turn, lines, cases as (x,
    y, title), the names that have room beside them, and ticks of both axes as (place, text).
    """

    width: float
    height: float
    left: float
    right: float
    top: float
    bottom: float
    bands: tuple[tuple[str, str], ...]
    lines: tuple[Contour, ...]
    cases: tuple[tuple[float, float, str], ...]
    names: tuple[PlacedLabel, ...]
    across: tuple[tuple[float, str], ...]
    up: tuple[tuple[float, str], ...]


def draw_contours(study: Study, found: SuctionMap) -> Contours:
    """The contours of a map, with the cases of its build."""

    def x(meters: float) -> float:
        return LEFT + meters / ALTITUDES[-1] * (WIDTH - LEFT - RIGHT)

    def y(celsius: float) -> float:
        return BOTTOM - (celsius - TEMPERATURES[0]) / (TEMPERATURES[-1] - TEMPERATURES[0]) * (
            BOTTOM - TOP
        )

    lines, bands, last = [], list[tuple[str, str]](), 0.0
    limits = {
        found.check: ("check", "wanted"),
        found.stop: ("stop", "needed"),
    }  # one where both are the pump's own
    clear = [
        (level, style, f"{shown(level, 'pressure_difference')} clear, {words}")
        for level, (style, words) in sorted(limits.items())
    ]
    for level, style, words in ((0.0, "boils", "boils"), *clear):
        places = contour(found, level)
        if len(places) > 1:
            points = [(x(m), y(c)) for m, c in places]
            bands.append((_above(points), style))
            end = max(points[-1][1] + 5, last + 18)
            lines.append(
                Contour(
                    " ".join(f"{a:.1f},{b:.1f}" for a, b in points),
                    style,
                    words,
                    points[-1][0] + 8,
                    end,
                )
            )
            last = end
    cases = _cases(study, x, y)
    return Contours(
        WIDTH,
        HEIGHT,
        LEFT,
        WIDTH - RIGHT,
        TOP,
        BOTTOM,
        tuple(reversed(bands)),
        tuple(lines),
        cases,
        _names(cases),
        tuple((x(m), shown(m, "height")) for m in ALTITUDES),
        tuple((y(t), shown(t + CELSIUS, "temperature")) for t in TEMPERATURES),
    )


def _above(points: list[tuple[float, float]]) -> str:
    """What lies above a line: where it leaves the picture it does so by the top on the left, by the
    bottom on the right, for thinner air boils sooner.
    """
    right = WIDTH - RIGHT
    before = [(points[0][0], TOP)] if points[0][0] > LEFT + 1 else []
    after = [(points[-1][0], BOTTOM), (right, BOTTOM)] if points[-1][0] < right - 1 else []
    corners = [(LEFT, TOP), *before, *points, *after, (right, TOP)]
    return " ".join(f"{a:.1f},{b:.1f}" for a, b in corners)


def _cases(
    study: Study, x: Callable[[float], float], y: Callable[[float], float]
) -> tuple[tuple[float, float, str], ...]:
    """The places of the cases, those at one place named together."""
    at: dict[tuple[float, float], list[str]] = {}
    for s in solved_moments(study):
        meters = altitude_of(s.solved.case.point.atmosphere)
        celsius = s.study.brief.fuel_temperature_c
        if (
            ALTITUDES[0] - 1 <= meters <= ALTITUDES[-1]
            and TEMPERATURES[0] <= celsius <= TEMPERATURES[-1]
        ):
            at.setdefault((round(meters), round(celsius, 1)), []).append(s.moment.case.title)
    return tuple(
        (x(m), y(c), names[0] if len(names) == 1 else f"{names[0]} and {len(names) - 1} more")
        for (m, c), names in at.items()
    )


def _names(cases: tuple[tuple[float, float, str], ...]) -> tuple[PlacedLabel, ...]:
    """The names that have room: one without it shows when its dot is pointed at."""
    placer = Placer((LEFT, TOP, WIDTH - RIGHT, BOTTOM))
    for x, y, _ in cases:
        placer.keep_clear((x - DOT, y - DOT, x + DOT, y + DOT))
    for x, y, title in cases:
        placer.place(
            title,
            [
                (x + 9, y - 7, "start"),
                (x + 9, y + 18, "start"),
                (x - 9, y - 7, "end"),
                (x - 9, y + 18, "end"),
                (x, y - 14, "middle"),
                (x, y + 26, "middle"),
            ],
            "case-says",
        )
    return tuple(placer.labels)
