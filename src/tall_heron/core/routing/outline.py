"""A vehicle of our own drawing, stretched to its main dimensions: its shapes, what lines must keep
away from, the panels they cross, the lanes they usually follow, and where parts usually stand.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from tall_heron.core.base.catalogue import document
from tall_heron.core.document.build import Brief
from tall_heron.core.document.space import Panel, Space, Zone
from tall_heron.core.routing.vectors import Vector

Shape = tuple[
    tuple[float, float, float], ...
]  # corners of a closed line (two coordinates) with the radius that rounds each [mm]
Flat = tuple[float, float]


@dataclass(frozen=True)
class Spot:
    """Where a part usually stands [mm] and how it is turned: about the upright, then nose up [deg]."""

    at: Vector
    yaw: float
    pitch: float = 0.0


@dataclass(frozen=True)
class Outline:
    """A stretched vehicle [mm]. `side` is seen from the right (x, z), `plan` from above (x, y), its
    left half, `rear` from behind (y, z), its right half; `wheels` are circles (x, y, radius,
    width). `lanes` are chains of places that lines usually follow, `inside` those within the cabin.
    """

    name: str
    title: str
    flies: bool
    dimensions: dict[str, float]
    side: tuple[Shape, ...]
    glass: tuple[Shape, ...]
    plan: tuple[Shape, ...]
    rear: tuple[Shape, ...]
    wheels: tuple[tuple[float, float, float, float], ...]
    zones: tuple[Zone, ...]
    panels: tuple[Panel, ...]
    lanes: tuple[tuple[Vector, ...], ...]
    inside: tuple[tuple[Vector, ...], ...]
    spots: dict[str, Spot]
    outlet_left: bool  # of a tank that lies along the vehicle: there the axle is not in the way

    @property
    def size(self) -> Vector:
        """Its length, its width and its height over all [mm]."""
        d = self.dimensions
        if self.flies:
            return d["length"], d["span"], d["height"]
        return d["rear_overhang"] + d["wheelbase"] + d["front_overhang"], d["width"], d["height"]


WITHOUT_BOOST = {"turbo and manifold": "exhaust manifold", "manifold and turbo": "exhaust manifold"}
LEAST, MOST = 0.3, 4.0  # times the drawn one, that a dimension may be
WITHIN = (
    ("chord", "length", 0.5),
    ("cabin", "span", 0.8),
    ("ground", "height", 0.6),
    ("track", "width", 1.2),
)  # no more than such a share of another

LONG = ("rear_overhang", "wheelbase", "front_overhang")
STAYS = 0.2  # of the room between a landmark and what else is fixed

WORDS = {
    "rear_overhang": "Rear axle to the rear end",
    "wheelbase": "Wheelbase",
    "front_overhang": "Front axle to the nose",
    "track": "Track",
    "width": "Width",
    "height": "Height",
    "ground": "Ground clearance",
    "length": "Length",
    "span": "Span",
    "chord": "Chord at the root",
    "cabin": "Width of the cabin",
    "tank_firewall": "Tank's middle to the firewall",
    "floor": "Floor over the ground",
    "rail_up": "Fuel rail over the ground",
    "bowl_up": "Carburetor over the ground",
    "tank_up": "Underside of the tank over the ground",
}
BY_WORD = (
    ("motorcycle", "motorcycle"),
    ("motorbike", "motorcycle"),
    ("mid-engine", "mid"),
    ("mid engine", "mid"),
    ("rear-engine", "rear"),
    ("rear engine", "rear"),
    ("float", "floatplane"),
    ("seaplane", "floatplane"),
    ("buggy", "buggy"),
    ("sand", "buggy"),
    ("single seater", "single seater"),
    ("single-seater", "single seater"),
    ("formula", "single seater"),
    ("pick-up", "pick-up"),
    ("pickup", "pick-up"),
    ("truck", "pick-up"),
    ("biplane", "biplane"),
    ("low wing", "low wing"),
    ("low-wing", "low wing"),
    ("pusher", "pusher"),
    ("coupe", "coupe"),
    ("roadster", "coupe"),
    ("saloon", "coupe"),
)  # what a title says


def usual_outline(brief: Brief) -> str:
    """The outline of a build that does not say one: by what its title says, else by what it is used
    for.
    """
    title = brief.title.lower()
    for word, name in BY_WORD:
        if word in title and _is_aircraft(name) == (brief.use == "flight"):
            return name
    return {"flight": "high wing", "off-road": "buggy", "circuit": "coupe", "drag": "coupe"}.get(
        brief.use, "wagon"
    )


def family_of(name: str) -> dict[str, Any]:
    """What an outline shares with others: zones, panels, lanes, spots, dimensions as drawn."""
    data = document("outlines")
    family_row: dict[str, Any] = data["families"][data["outlines"][name]["family"]]
    return family_row


def _is_aircraft(name: str) -> bool:
    return "wing_at" in family_of(name)


def leans_along(space: Space, brief: Brief) -> bool:
    """Whether a vehicle leans with its turns, so that fuel stays where it lies: one on a single
    track.
    """
    name = space.outline or usual_outline(brief)
    return "track" not in family_of(name)["dimensions"] and not _is_aircraft(name)


def limits_of(name: str, dimension: str, typed: dict[str, float]) -> tuple[float, float]:
    """The least and the most that a dimension of an outline may be [mm]; of a landmark, between its
    neighbors in a vehicle of which so much is `said`.
    """
    row, family = document("outlines")["outlines"][name], family_of(name)
    mark = family["landmarks"].get(dimension)
    if mark is not None:
        rest = {k: v for k, v in typed.items() if k != dimension}
        return _between(
            _landmarked(family, _knots(family, _dimensions(row, rest)), rest)[mark["axis"]], mark
        )
    usual = float((family["dimensions"] | row["dimensions"])[dimension])
    return LEAST * usual, MOST * usual


def titles(flies: bool) -> dict[str, str]:
    """The outlines of cars, or of aircraft, by name."""
    return {
        name: o["title"]
        for name, o in document("outlines")["outlines"].items()
        if _is_aircraft(name) == flies
    }


def outline_of(space: Space, brief: Brief) -> Outline:
    """The outline of a build: as said, or the usual one, stretched to what is said of its
    dimensions, with the zones and panels that somebody changed.
    """
    name = space.outline or usual_outline(brief)
    stretched = _stretched(name, tuple(sorted(space.dimensions.items())))
    usual = (
        stretched.zones
        if brief.boosted
        else tuple(
            z.model_copy(update={"title": WITHOUT_BOOST[z.title]})
            if z.title in WITHOUT_BOOST
            else z
            for z in stretched.zones
        )
    )
    zones = _with(usual, space.zones, space.without)
    panels = _with(stretched.panels, space.panels, space.without)
    return (
        stretched
        if zones == stretched.zones and panels == stretched.panels
        else Outline(**(stretched.__dict__ | {"zones": zones, "panels": panels}))
    )


def _with(usual: Sequence[Any], own: Sequence[Any], without: Sequence[str]) -> tuple[Any, ...]:
    typed = {x.name: x for x in own}
    names = [x.name for x in usual]
    out = [typed.get(x.name, x) for x in usual if x.name not in without]
    return (*out, *(x for x in own if x.name not in names and x.name not in without))


@lru_cache(maxsize=64)
def _stretched(name: str, typed: tuple[tuple[str, float], ...]) -> Outline:
    row, family = document("outlines")["outlines"][name], family_of(name)
    dimensions = _dimensions(row, dict(typed))
    x, y, z = (
        _piecewise(axis) for axis in _landmarked(family, _knots(family, dimensions), dict(typed))
    )

    def at(v: Sequence[float]) -> Vector:
        return x(v[0]), y(v[1]), z(v[2])

    def shape(
        points: list[list[float]], one: Callable[[float], float], other: Callable[[float], float]
    ) -> Shape:
        return tuple((one(p[0]), other(p[1]), p[2]) for p in points)

    def zone(z_: dict[str, Any]) -> Zone:
        ends = at(z_["low"]), at(z_["high"])
        if z_["shape"] != "cylinder":
            (a, b, c), (x1, y1, z1) = ends
            ends = (min(a, x1), min(b, y1), min(c, z1)), (max(a, x1), max(b, y1), max(c, z1))
        return Zone.model_validate(z_ | {"low": ends[0], "high": ends[1]})

    return Outline(
        name,
        row["title"],
        "wing_at" in family,
        dimensions
        | {
            k: (x, y, z)[m["axis"]](m["to"]) - (x, y, z)[m["axis"]](m["from"])
            for k, m in family["landmarks"].items()
        },
        tuple(shape(s, x, z) for s in row["side"]),
        tuple(shape(s, x, z) for s in row["glass"]),
        tuple(shape(s, x, y) for s in row["plan"]),
        tuple(shape(s, y, z) for s in row["rear"]),
        _wheels(row, dimensions, x, y),
        tuple(zone(z_) for z_ in family["zones"]),
        tuple(
            Panel.model_validate(p | {"low": at(p["low"]), "high": at(p["high"])})
            for p in family["panels"]
        ),
        tuple(tuple(at(v) for v in lane) for lane in family["lanes"]),
        tuple(tuple(at(v) for v in lane) for lane in family["inside"]),
        {
            key: Spot(at(s["at"]), s["yaw"], s.get("pitch", 0.0))
            for key, s in family["spots"].items()
        },
        family.get("outlet") == "left",
    )


def _wheels(
    row: dict[str, Any],
    d: dict[str, float],
    x: Callable[[float], float],
    y: Callable[[float], float],
) -> tuple[tuple[float, float, float, float], ...]:
    if "gear" in row:
        both = [
            (x(gx), side * y(gy), float(r), 0.4 * r)
            for gx, gy, r in row["gear"]
            for side in ((1, -1) if gy else (1,))
        ]
        return tuple(both)
    r, wide = float(row["wheels"]), float(row["wheel_wide"])
    across = (
        (d["track"] / 2, -d["track"] / 2) if "track" in d else (0.0,)
    )  # of two tracks or of one
    return tuple(
        (ax, y, r, wide)
        for ax in (d["rear_overhang"], d["rear_overhang"] + d["wheelbase"])
        for y in across
    )


Knots = list[tuple[float, float]]  # from a place of the drawing to the one in the vehicle [mm]


def _dimensions(row: dict[str, Any], typed: dict[str, float]) -> dict[str, float]:
    """The main dimensions of a vehicle of which something is said, each within reason."""
    usual = {
        key: float(value)
        for key, value in (
            document("outlines")["families"][row["family"]]["dimensions"] | row["dimensions"]
        ).items()
    }
    out = usual | {
        k: min(max(v, LEAST * usual[k]), MOST * usual[k]) for k, v in typed.items() if k in usual
    }
    for part, whole, share in WITHIN:
        if part in out:
            out[part] = min(out[part], share * out[whole])
    return out


def _knots(family: dict[str, Any], d: dict[str, float]) -> list[Knots]:
    """The places along x, y and z that the main dimensions fix."""
    drawn = family["dimensions"]
    if "wing_at" in family:
        tail, lead = family["wing_at"]
        k = d["length"] / drawn["length"]
        x = [
            (0.0, 0.0),
            (tail, k * lead - d["chord"]),
            (lead, k * lead),
            (drawn["length"], d["length"]),
        ]
        y = [(0.0, 0.0), (drawn["cabin"] / 2, d["cabin"] / 2), (drawn["span"] / 2, d["span"] / 2)]
        return [x, y, [(0.0, 0.0), (drawn["height"], d["height"])]]
    x = [
        (0.0, 0.0),
        *((sum(drawn[k] for k in LONG[:n]), sum(d[k] for k in LONG[:n])) for n in (1, 2, 3)),
    ]
    z = [
        (0.0, 0.0),
        (drawn["ground"], d["ground"]),
        (drawn["height"], max(d["height"], d["ground"] + 100)),
    ]
    return [x, [(0.0, 0.0), (drawn["width"] / 2, d["width"] / 2)], z]


def _landmarked(family: dict[str, Any], knots: list[Knots], typed: dict[str, float]) -> list[Knots]:
    """The same with the landmarks that are said, each between its neighbors."""
    for name, mark in family["landmarks"].items():
        if name in typed:
            axis = knots[mark["axis"]]
            least, most = _between(axis, mark)
            begins = _piecewise(axis)(mark["from"])
            new = {
                float(mark["from"]): begins,
                float(mark["to"]): begins + min(max(typed[name], least), most),
            } | dict(axis)
            knots[mark["axis"]] = sorted(new.items())
    return knots


def _between(axis: Knots, mark: dict[str, Any]) -> tuple[float, float]:
    """The least and the most that a landmark may be from where it begins: on either side at least a
    share of the room to what is fixed there stays [mm].
    """
    at = _piecewise(axis)
    begins, now = at(mark["from"]), at(mark["to"])
    before = max(begins, *(new for old, new in axis if old < mark["to"]))
    beyond = min(new for old, new in axis if old > mark["to"])
    return before + STAYS * (now - before) - begins, beyond - STAYS * (beyond - now) - begins


def _piecewise(steps: Knots) -> Callable[[float], float]:
    """A line through knots, going on beyond both ends; the same on both sides of nought where it
    begins there.
    """

    def at(v: float) -> float:
        far, sign = abs(v), -1.0 if v < 0 else 1.0
        i = next((i for i in range(1, len(steps) - 1) if far <= steps[i][0]), len(steps) - 1)
        (a, p), (b, q) = steps[i - 1], steps[i]
        return round(sign * (p + (q - p) * (far - a) / (b - a)), 1)

    return at
