"""A picture of the builder's own vehicle as the ground of a view: put under it, scaled by two
places that lie a known way apart, set on the ground by a third.
"""

import math
from typing import get_args

from tall_heron.core.base.errors import wrong
from tall_heron.core.document.build import Build, checked
from tall_heron.core.document.space import Ground, Space, ViewName
from tall_heron.core.editing.drawn import followed
from tall_heron.core.routing.laid import lay_out

Flat = tuple[float, float]
MOST_MM = 40_000.0  # across a picture
NEAR_MM = 10.0  # two clicks nearer than this scale nothing
VIEWS: tuple[str, ...] = get_args(ViewName)


def put_ground(
    build: Build, view: str, sha256: str, wide_px: int, high_px: int, mm_per_px: float | None = None
) -> Build:
    """Put a picture under a view, standing on the ground: of its own scale where it knows one, else
    as wide as the vehicle until somebody scales it. Raises BuildErrors.
    """
    if view not in VIEWS:
        raise wrong("ground", f"a picture lies under {', '.join(VIEWS)}")
    long, wide, _ = lay_out(build).outline.size
    across, left = (wide, -wide / 2) if view == "rear" else (long, 0.0)
    k = mm_per_px if mm_per_px is not None else across / wide_px
    if mm_per_px is not None and view == "rear":
        left = -wide_px * k / 2
    top = high_px * k if view != "plan" else high_px * k / 2
    ground = {
        "sha256": sha256,
        "wide_px": wide_px,
        "high_px": high_px,
        "mm_per_px": k,
        "left_mm": left,
        "top_mm": top,
        "scaled": mm_per_px is not None,
    }
    return followed(_with(build, view, checked(Ground, ground)))


def scale_ground(
    build: Build, view: str, one: Flat, other: Flat, apart_mm: float, level: Flat | None = None
) -> Build:
    """Scale a picture so that two places on it [mm along the view's axes, as it lies now] are so
    far apart [mm], and turn it so that they lie level in a view from the side or behind; the
    first stays where it is, but for its height: the place `level` lies on the ground. Raises
    BuildErrors.
    """
    ground = build.space.grounds.get(view)  # type: ignore[call-overload]
    if ground is None:
        raise wrong("ground", "there is no picture under this view yet")
    far = math.dist(one, other)
    if far < NEAR_MM or not 20 <= apart_mm <= 40_000:
        raise wrong(
            "ground",
            "click two places well apart, and write how far apart they are: between 20 mm and 40 m",
        )
    times = apart_mm / far
    across = max(ground.wide_px, ground.high_px) * ground.mm_per_px * times
    if across > MOST_MM:
        raise wrong(
            "ground",
            f"that makes the picture {across / 1000:.0f} m across; click two places further apart on it, or look at the unit",
        )
    back = -math.atan2(other[1] - one[1], other[0] - one[0]) if view != "plan" else 0.0
    if abs(back) > math.pi / 2:  # clicked from right to left
        back -= math.copysign(math.pi, back)

    def moved(p: Flat) -> Flat:
        u, w = (p[0] - one[0]) * times, (p[1] - one[1]) * times
        return one[0] + u * math.cos(back) - w * math.sin(back), one[1] + u * math.sin(
            back
        ) + w * math.cos(back)

    left, top = moved((ground.left_mm, ground.top_mm))
    if level is not None and view != "plan":
        top -= moved(level)[1]
    new = ground.model_dump() | {
        "mm_per_px": ground.mm_per_px * times,
        "left_mm": left,
        "top_mm": top,
        "turned_deg": (ground.turned_deg + math.degrees(back)) % 360,
        "scaled": True,
    }
    return followed(_with(build, view, checked(Ground, new)))


def off_ground(build: Build, view: str) -> Build:
    """Take the picture from under a view. Raises BuildErrors."""
    if view not in build.space.grounds:
        raise wrong("ground", "there is no picture under this view")
    return followed(_with(build, view, None))


def _with(build: Build, view: str, ground: Ground | None) -> Build:
    rest = {k: g.model_dump() for k, g in build.space.grounds.items() if k != view}
    space = build.space.model_dump() | {
        "grounds": rest | ({view: ground.model_dump()} if ground is not None else {})
    }
    return build.model_copy(update={"space": checked(Space, space)})
