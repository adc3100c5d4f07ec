"""The vehicle that lines run through, as far as somebody said it: its outline and main dimensions,
what lines must keep away from, where parts stand, and the way of each line.

Millimetres in one right-handed frame: x forward from the rearmost point, y to the left of the
middle, z up from the ground.
"""

from typing import Annotated, Literal, get_args

from pydantic import Field, model_validator

from tall_heron.core.document.record import Name, Positive, Record, above_zero

Coordinate = Annotated[float, Field(ge=-50_000, le=50_000)]
Vec = tuple[Coordinate, Coordinate, Coordinate]
OutlineName = Literal[
    "wagon",
    "coupe",
    "pick-up",
    "mid",
    "rear",
    "buggy",
    "single seater",
    "motorcycle",
    "high wing",
    "floatplane",
    "low wing",
    "biplane",
    "pusher",
]
OUTLINES: tuple[str, ...] = get_args(OutlineName)
ZoneKind = Literal[
    "hot", "moving", "cabin", "crush", "ground", "battery", "wiring", "hands", "brake", "obstacle"
]
GuardKind = Literal["sleeve", "heat shield", "stone guard", "separator"]
ViewName = Literal["side", "plan", "rear"]
MOST_CORNERS = 60
# Which coordinates of a view go to the right and up, and their signs: from the right side, from
# above (the left side up), from behind.
VIEW_AXES: dict[str, tuple[tuple[int, float], tuple[int, float]]] = {
    "side": ((0, 1.0), (2, 1.0)),
    "plan": ((0, 1.0), (1, 1.0)),
    "rear": ((1, -1.0), (2, 1.0)),
}


class Place(Record):
    """Where an assembly stands, by the part that names it: the middle of a tank's underside, else
    the first seat of what is screwed together; and how it is turned: about the upright [deg, to
    the left], then its nose up.
    """

    at: Vec
    yaw_deg: Annotated[float, Field(ge=-360, le=360)] = 0.0
    pitch_deg: Annotated[float, Field(ge=-180, le=180)] = 0.0


class Zone(Record):
    """What lines keep away from: a `box` from its lowest to its highest corner, a `cylinder` from
    one end of its axis to the other, or a `prism`: a plan as (x, y) points between two heights.
    """

    name: Name
    kind: ZoneKind
    title: Annotated[str, Field(max_length=60)] = ""
    shape: Literal["box", "cylinder", "prism"] = "box"
    low: Vec
    high: Vec
    radius_mm: Positive | None = None
    plan: Annotated[list[tuple[Coordinate, Coordinate]], Field(max_length=24)] = Field(
        default_factory=list
    )
    temperature_c: Annotated[float, Field(ge=-60, le=1500)] | None = None
    shielded: bool = False

    @model_validator(mode="after")
    def _whole(self) -> "Zone":
        if self.shape == "cylinder" and (self.radius_mm is None or self.low == self.high):
            raise ValueError("a cylinder needs a radius and an axis from one end to another")
        if self.shape == "prism" and len(self.plan) < 3:
            raise ValueError("a prism needs at least three points of its plan")
        if self.shape != "cylinder" and any(
            a > b for a, b in zip(self.low, self.high, strict=True)
        ):
            raise ValueError("the lowest corner lies beyond the highest: swap them")
        return self


class Panel(Record):
    """A sheet that lines cross only through a bulkhead fitting or a grommet: a rectangle from one
    corner to the other, across x, y or z.
    """

    name: Name
    title: Annotated[str, Field(max_length=60)] = ""
    low: Vec
    high: Vec

    @model_validator(mode="after")
    def _flat(self) -> "Panel":
        if sum(a == b for a, b in zip(self.low, self.high, strict=True)) != 1:
            raise ValueError("a panel is flat: just one of x, y and z is the same at both corners")
        return self

    @property
    def axis(self) -> int:
        """The coordinate it stands across: 0, 1 or 2."""
        return next(i for i in range(3) if self.low[i] == self.high[i])


class Guard(Record):
    """What protects a stretch of a line, from and to along its drawn length [mm]."""

    kind: GuardKind
    from_mm: Annotated[float, Field(ge=0, le=1e6)]
    to_mm: Annotated[float, Field(ge=0, le=1e6)]

    @model_validator(mode="after")
    def _long(self) -> "Guard":
        if self.to_mm <= self.from_mm:
            raise ValueError(
                f"a {self.kind} ends beyond where it begins; {self.from_mm:g} to {self.to_mm:g} mm has no length"
            )
        return self


class Route(Record):
    """The way of a line: its corners from end A to end B; how far its bent ends are turned on their
    ports from looking at the next corner, clockwise as seen from the part [deg]; `clamps` along its
    drawn length [mm], None: by rule; panels it crosses through a `grommet`; what protects it; the
    line it runs beside.
    """

    corners: Annotated[list[Vec], Field(max_length=MOST_CORNERS)] = Field(default_factory=list)
    radius_mm: Annotated[float, Field(ge=1, le=5000)] | None = None
    turned_a_deg: Annotated[float, Field(ge=-360, le=360)] = 0.0
    turned_b_deg: Annotated[float, Field(ge=-360, le=360)] = 0.0
    clamps: Annotated[list[Annotated[float, Field(ge=0, le=1e6)]], Field(max_length=200)] | None = (
        None
    )
    grommets: Annotated[list[Name], Field(max_length=40)] = Field(default_factory=list)
    guards: Annotated[list[Guard], Field(max_length=40)] = Field(default_factory=list)
    beside: Name | None = None


class Ground(Record):
    """A picture of the vehicle under one view, kept by its hash beside the build: its size [px],
    how many millimeters a pixel is, where its upper left corner lies along the view's own axes
    [mm, to the right and up], how far it is turned about that corner to the left [deg], and whether
    somebody has `scaled` it by something he knows.
    """

    sha256: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
    wide_px: Annotated[int, Field(ge=8, le=20_000)]
    high_px: Annotated[int, Field(ge=8, le=20_000)]
    mm_per_px: Annotated[float, above_zero(1000)]
    left_mm: Coordinate
    top_mm: Coordinate
    turned_deg: Annotated[float, Field(ge=-360, le=360)] = 0.0
    scaled: bool = False


class Space(Record):
    """What somebody said of the space; everything else follows by rule from the outline and the
    circuit. Zones and panels stand in for those of the outline by their names; `without` names
    those that the vehicle does not have. `groups` are lines meant to be equally long.
    """

    outline: OutlineName | None = None
    dimensions: dict[
        Annotated[str, Field(max_length=30)], Annotated[float, Field(ge=20, le=40_000)]
    ] = Field(default_factory=dict)
    zones: Annotated[list[Zone], Field(max_length=80)] = Field(default_factory=list)
    panels: Annotated[list[Panel], Field(max_length=40)] = Field(default_factory=list)
    without: Annotated[list[Name], Field(max_length=120)] = Field(default_factory=list)
    places: dict[Name, Place] = Field(default_factory=dict)
    routes: dict[Name, Route] = Field(default_factory=dict)
    grounds: dict[ViewName, Ground] = Field(default_factory=dict)
    groups: dict[
        Annotated[str, Field(min_length=1, max_length=40)],
        Annotated[list[Name], Field(min_length=2, max_length=24)],
    ] = Field(default_factory=dict)
