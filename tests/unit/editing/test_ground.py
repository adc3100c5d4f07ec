"""A picture scaled by two places: plane geometry by hand."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.document.build import Build, dump, load
from tall_heron.core.document.space import Ground
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.drawn import drawn_source
from tall_heron.core.editing.ground import off_ground, put_ground, scale_ground

BUILD = demo_builds()["curlew"]
SHA = "0" * 64
PLACES = st.tuples(st.floats(-3000, 6000), st.floats(-1000, 3000))


def where(g: Ground, px: tuple[float, float]) -> tuple[float, float]:
    """A pixel of the picture along the view's axes [mm]: turned to the left about its upper left
    corner.
    """
    a, b, t = px[0] * g.mm_per_px, -px[1] * g.mm_per_px, math.radians(g.turned_deg)
    return g.left_mm + a * math.cos(t) - b * math.sin(t), g.top_mm + a * math.sin(t) + b * math.cos(
        t
    )


@given(
    one=st.tuples(st.floats(0, 1000), st.floats(0, 600)),
    other=st.tuples(st.floats(0, 1000), st.floats(0, 600)),
    low=st.tuples(st.floats(0, 1000), st.floats(0, 600)),
    mm=st.floats(100, 9000),
)
def test_two_pixels_lie_as_far_apart_as_said_level_and_a_third_on_the_ground(
    one: tuple[float, float], other: tuple[float, float], low: tuple[float, float], mm: float
) -> None:
    build = put_ground(BUILD, "side", SHA, 1000, 600)
    before = build.space.grounds["side"]
    px = math.dist(one, other)
    if math.dist(where(before, one), where(before, other)) < 10 or 1000 * mm / px > 39_000:
        return
    # Twice: what is scaled once may be scaled again, as it lies now.
    for _ in range(2):
        g = build.space.grounds["side"]
        build = scale_ground(build, "side", where(g, one), where(g, other), mm, where(g, low))
    after = build.space.grounds["side"]
    p, q = where(after, one), where(after, other)
    assert math.dist(p, q) == pytest.approx(mm, rel=1e-6)
    assert p[1] == pytest.approx(q[1], abs=1e-3)
    assert where(after, low)[1] == pytest.approx(0.0, abs=1e-3)
    assert load(dump(build)) == build


def test_a_scaled_picture_makes_the_drawing_one_of_a_measured_vehicle() -> None:
    bare = BUILD.model_copy(update={"space": BUILD.space.model_copy(update={"dimensions": {}})})
    put = put_ground(bare, "plan", SHA, 1000, 600)
    assert drawn_source(put) == "outline"
    scaled = scale_ground(put, "plan", (0.0, 0.0), (1000.0, 0.0), 2000.0)
    assert drawn_source(scaled) == "route"
    assert drawn_source(off_ground(scaled, "plan")) == "outline"


def refused(build: Build, mm: float, far: float) -> None:
    scale_ground(build, "side", (0.0, 0.0), (far, 0.0), mm)


@pytest.mark.parametrize(("mm", "far"), [(1.0, 500.0), (1e6, 500.0), (2000.0, 2.0)])
def test_what_scales_nothing_is_refused(mm: float, far: float) -> None:
    with pytest.raises(BuildErrors, match="well apart"):
        refused(put_ground(BUILD, "side", SHA, 1000, 600), mm, far)
    with pytest.raises(BuildErrors, match="m across"):
        refused(put_ground(BUILD, "side", SHA, 1000, 600), 30_000.0, 60.0)
    with pytest.raises(BuildErrors, match="no picture"):
        refused(BUILD, 2000.0, 500.0)
    with pytest.raises(BuildErrors, match="a picture lies under"):
        put_ground(BUILD, "top", SHA, 10, 10)
