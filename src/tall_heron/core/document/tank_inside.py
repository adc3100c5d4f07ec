"""What stands inside a tank, for fuel that runs about in it: where its outlet draws, its walls with
their openings, the shape of its side, a hump under it.
"""

from itertools import pairwise
from typing import Annotated, Literal

from pydantic import Field, model_validator

from tall_heron.core.document.record import NotNegative, Positive, Record

LIE_ACROSS = ("wing tank", "saddle tank")  # families whose long side lies across the vehicle
LEAST_GAP_MM = 5  # between walls, and from a wall to the tank's own


class Baffle(Record):
    """An upright wall `across` the vehicle at a distance from the tank's rear wall, or `along` it
    from the left wall; `open_mm2` of it is open from the floor up to `open_high_mm`. A one-way
    door lets fuel only `forward` (across) or `right` (along), or only `back` or `left`.
    """

    way: Literal["across", "along"] = "across"
    at_mm: Positive
    open_mm2: NotNegative = 0.0
    open_high_mm: Positive = 30.0
    door: Literal["", "forward", "back", "right", "left"] = ""

    @model_validator(mode="after")
    def _door_fits(self) -> "Baffle":
        ways = ("forward", "back") if self.way == "across" else ("right", "left")
        if self.door and self.door not in ways:
            raise ValueError(
                f"a door in a wall {self.way} opens {' or '.join(ways)}, not {self.door}"
            )
        return self


class Inside(Record):
    """What nobody has said is None. `turned`: the tank's long side lies across the vehicle.
    `pickup_ahead_mm` is from the tank's rear wall, `pickup_right_mm` from its left wall. The `side`
    is given as points (ahead, up) [mm] round it, instead of a box; `hump_high_mm` and
    `hump_wide_mm` are what stands under the middle of a saddle tank, along the vehicle.
    """

    turned: bool | None = None
    pickup_ahead_mm: NotNegative | None = None
    pickup_right_mm: NotNegative | None = None
    baffles: Annotated[list[Baffle], Field(max_length=6)] = Field(default_factory=list)
    side: Annotated[list[tuple[NotNegative, NotNegative]], Field(max_length=24)] = Field(
        default_factory=list
    )
    hump_high_mm: Positive | None = None
    hump_wide_mm: Positive | None = None

    @model_validator(mode="after")
    def _whole(self) -> "Inside":
        if 0 < len(self.side) < 3:
            raise ValueError("a side needs at least three points")
        if self.side:
            side_strips(self.side)
        if (self.hump_high_mm is None) != (self.hump_wide_mm is None):
            raise ValueError("a hump needs its height and its width")
        for way in ("across", "along"):
            for a, b in pairwise(sorted(w.at_mm for w in self.baffles if w.way == way)):
                if b - a < LEAST_GAP_MM:
                    raise ValueError(
                        f"two walls {way} stand at {a:g} and {b:g} mm: leave at least {LEAST_GAP_MM} mm between them"
                    )
        return self


Strip = tuple[
    float, float, tuple[float, float], tuple[float, float]
]  # from, to, floor at both, ceiling at both [mm]


def side_strips(points: list[tuple[float, float]]) -> list[Strip]:
    """A side cut at its corners into upright strips with straight floor and ceiling. Raises
    ValueError where an upright line would cross it more than twice, or it has no area.

    >>> side_strips([(0, 0), (400, 0), (600, 80), (600, 200), (0, 200)])
    [(0, 400, (0.0, 0.0), (200.0, 200.0)), (400, 600, (0.0, 80.0), (200.0, 200.0))]
    """
    edges = [
        (a, b) if a[0] < b[0] else (b, a)
        for a, b in zip(points, [*points[1:], points[0]], strict=True)
        if a[0] != b[0]
    ]
    out = []
    for x0, x1 in pairwise(sorted({p[0] for p in points})):
        over = [e for e in edges if e[0][0] <= x0 and e[1][0] >= x1]
        if len(over) != 2:
            raise ValueError(
                f"the side is crossed {len(over)} times by an upright line between {x0:g} and {x1:g} mm; give its corners in order, without overhangs"
            )

        def at(edge: tuple[tuple[float, float], tuple[float, float]], x: float) -> float:
            (xa, za), (xb, zb) = edge
            return za + (zb - za) * (x - xa) / (xb - xa)

        one, other = sorted(over, key=lambda e: at(e, (x0 + x1) / 2))
        floor, top = (at(one, x0), at(one, x1)), (at(other, x0), at(other, x1))
        if floor[0] > top[0] + 1e-6 or floor[1] > top[1] + 1e-6:
            raise ValueError(f"the side crosses itself between {x0:g} and {x1:g} mm")
        out.append((x0, x1, floor, top))
    if not out or sum((b - a) * (sum(t) - sum(f)) / 2 for a, b, f, t in out) < 1.0:
        raise ValueError("the side has no area")
    return out
