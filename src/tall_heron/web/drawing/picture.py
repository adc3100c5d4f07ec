"""What the circuit's drawing is made of: plain places and words for the template."""

from dataclasses import dataclass, field

from tall_heron.core.document.circuit import Element
from tall_heron.web.drawing.charts.axis import Axis
from tall_heron.web.drawing.labels import PlacedLabel

TOP, BOTTOM = 112.0, 264.0  # px, the walk without lanes above it


@dataclass(frozen=True)
class Symbol:
    """One part's symbol: where, how large, what it is called, and whether it is chosen."""

    element: Element
    x: float
    y: float
    scale: float
    label: str
    chosen: bool
    letter: str
    beside: bool = False
    tap: bool = False
    note: str = ""
    left: bool = False
    named: bool = True


@dataclass(frozen=True)
class Mark:
    """A finding's mark at a part."""

    level: str
    x: float
    y: float


@dataclass(frozen=True)
class Take:
    """The figure and the word under a column."""

    x: float
    value: str
    word: str
    chosen: bool
    bad: bool
    changed: bool = False
    height: str = ""  # what the height between its ends gives, with its sign
    lower: bool = False  # whether its word stands a line lower than its neighbors'


@dataclass
class Drawing:
    """Everything the template draws."""

    width: float
    height: float
    columns: list[tuple[float, str, bool]] = field(default_factory=list)
    under: list[tuple[float, float, str]] = field(default_factory=list)
    dense: bool = False
    symbols: list[Symbol] = field(default_factory=list)
    lines: list[tuple[float, float, float, float, str]] = field(default_factory=list)
    ends: list[tuple[float, float, str]] = field(default_factory=list)
    joints: list[tuple[float, float]] = field(default_factory=list)
    dead: set[str] = field(default_factory=set)
    top: float = TOP
    bottom: float = BOTTOM
    side_walks: list[str] = field(default_factory=list)
    axis: Axis | None = None
    ticks: list[tuple[float, str]] = field(default_factory=list)
    profile: str = ""
    tried: str = ""
    points: list[tuple[float, float, float]] = field(default_factory=list)
    areas: list[tuple[str, int, bool]] = field(default_factory=list)
    low_area: str = ""
    labels: list[PlacedLabel] = field(default_factory=list)
    takes: list[Take] = field(default_factory=list)
    asked: tuple[float, float, float] | None = None
    boiling: tuple[float, float, float] | None = None
    arrow: tuple[float, float, float] | None = None
    marks: list[Mark] = field(default_factory=list)
    pitch: float = 0.0
    unit: str = "psi"
    description: str = ""
    trouble: str = ""
    chosen_x: float | None = None
