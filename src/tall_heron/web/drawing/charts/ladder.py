"""The ladder: the whole circuit's ceiling, and what each part alone feeds and costs, as bars on one
scale with the target across.
"""

from dataclasses import dataclass

from tall_heron.core.sizing.whole_limit import LadderRow
from tall_heron.web.show.text import bare, shown

WIDTH, LEFT, RIGHT, ROW, HEAD = 440.0, 150.0, 104.0, 27.0, 22.0
SHOWN, BEYOND = 12, 1.9  # rows; bars longer than so many times the target are broken off


@dataclass(frozen=True)
class Bar:
    """One row: its bar and the whisker of its band, where it has a ceiling of its own or none at
    all; its value; what it costs.
    """

    limit: LadderRow
    name: str
    y: float
    width: float | None
    low: float
    high: float
    broken: bool
    value: str
    costs: str


@dataclass(frozen=True)
class Target:
    """A power across the ladder: its line, and where its label stands."""

    x: float
    label_x: float
    text: str
    anchor: str


@dataclass(frozen=True)
class Ladder:
    """All bars, and the powers drawn across them."""

    width: float
    height: float
    left: float
    bars: tuple[Bar, ...]
    targets: tuple[Target, ...]


LONGEST = 11  # letters of a title that fit
SHORT = {"line": "hose"}


def short_name(limit: LadderRow) -> str:
    """The tags and a word that fit beside a bar."""
    if limit.kind == "whole":
        return "whole circuit"
    if limit.kind == "cases":
        return "in every case"
    if limit.kind == "suction":
        return f"{limit.parts[-1]} suction"
    tags = " ".join(limit.parts[:2]) + ("…" if len(limit.parts) > 2 else "")
    return f"{tags} {limit.title if len(limit.title) <= LONGEST else SHORT.get(limit.kind, limit.kind)}"


def draw_ladder(limits: list[LadderRow], asked: float, later: float | None) -> Ladder:
    """The ladder of a build's limits for the power wanted and the power wanted later [W]."""
    most = BEYOND * max(asked, later or 0.0)
    scale = (WIDTH - LEFT - RIGHT) / most
    bars = []
    for i, limit in enumerate(limits[:SHOWN]):
        only_costs = limit.ceiling is None and limit.costs is not None
        ceiling = most if limit.ceiling is None else min(limit.ceiling, most)
        broken = limit.ceiling is None or limit.ceiling > most
        low, high = (most if x is None else min(x, most) for x in limit.band)
        value = (
            ""
            if only_costs
            else "no limit"
            if limit.ceiling is None
            else bare(limit.ceiling, "power")
        )
        width = None if only_costs else ceiling * scale
        bars.append(
            Bar(
                limit,
                short_name(limit),
                HEAD + i * ROW,
                width,
                LEFT + low * scale,
                LEFT + high * scale,
                broken,
                value,
                _costs(limit),
            )
        )
    bottom = HEAD + len(bars) * ROW
    lines = [(LEFT + asked * scale, f"{shown(asked, 'power')} wanted")]
    if later:
        lines.append((LEFT + later * scale, f"{bare(later, 'power')} later"))
    lines.sort()
    # One label stands under its line; two stand back to back.
    anchors = ("middle",) if len(lines) == 1 else ("end", "start")
    targets = [
        Target(x, x + {"middle": 0, "end": 2, "start": 4}[anchor], text, anchor)
        for (x, text), anchor in zip(lines, anchors, strict=True)
    ]
    return Ladder(WIDTH, bottom + 30, LEFT, tuple(bars), tuple(targets))


def _costs(limit: LadderRow) -> str:
    """What a part costs; nothing for what takes no pressure."""
    if limit.costs is None:
        return ""
    text = bare(limit.costs, "power")
    return "under 1" if text == "0" and limit.costs > 40.0 else text
