"""How near lines come to zones, against dense sampling with distances written independently here
(projection onto a box and a bar, a finely cut plan); panels; AC 43.13-1B figures; DXF and CSV read
back; the loss of bends against `fluids`.
"""

import csv
import io
import math

import ezdxf
import fluids
import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from tall_heron.core.base.catalogue import table
from tall_heron.core.document.space import Panel, Zone
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.physics.fittings import bend_coefficient
from tall_heron.core.routing.clearance import crossings, distance, nearest, polyline, stretches
from tall_heron.core.routing.laid import lay_out
from tall_heron.core.routing.measure import between, measurable
from tall_heron.core.sheets.route_files import points_csv, to_dxf, to_svg

C = st.floats(-900, 900)
PLACE = st.tuples(C, C, C)


@st.composite
def zones(draw: st.DrawFn) -> Zone:
    a, b = draw(PLACE), draw(PLACE)
    shape = draw(st.sampled_from(["box", "cylinder", "prism"]))
    low, high = tuple(map(min, a, b)), tuple(map(max, a, b))
    if shape == "cylinder":
        return Zone(
            name="z",
            kind="hot",
            shape="cylinder",
            low=a,
            high=tuple(x + 1 for x in b),
            radius_mm=draw(st.floats(5, 120)),
        )
    if shape == "prism":
        corners = draw(st.integers(3, 7))
        angles = [2 * math.pi * i / corners for i in range(corners)]
        reach = [draw(st.floats(60, 500)) for _ in angles]
        return Zone(
            name="z",
            kind="hot",
            shape="prism",
            low=low,
            high=high,
            plan=[
                (r * math.cos(t) + a[0] / 4, r * math.sin(t))
                for r, t in zip(reach, angles, strict=True)
            ],
        )
    return Zone(name="z", kind="hot", low=low, high=high)


def far_from(zone: Zone, p: np.ndarray) -> np.ndarray:
    """The distance of places outside a zone [mm], 0 within it, by other means than the
    application's.
    """
    low, high = np.array(zone.low), np.array(zone.high)
    if zone.shape == "box":
        return np.asarray(np.linalg.norm(p - np.clip(p, low, high), axis=1))
    if zone.shape == "cylinder":
        long = np.linalg.norm(high - low)
        way = (high - low) / long
        t = (p - low) @ way
        off = p - low - t[:, None] * way
        off *= np.minimum(1, (zone.radius_mm or 0) / np.maximum(np.linalg.norm(off, axis=1), 1e-9))[
            :, None
        ]
        return np.asarray(
            np.linalg.norm(p - (low + np.clip(t, 0, long)[:, None] * way + off), axis=1)
        )  # to the nearest place of the bar itself
    ring = np.array(zone.plan)
    edge = np.concatenate(
        [
            a + np.linspace(0, 1, 1501)[:, None] * (b - a)
            for a, b in zip(ring, np.roll(ring, -1, axis=0), strict=True)
        ]
    )
    flat = np.array([np.linalg.norm(edge - q[:2], axis=1).min() for q in p])
    turned = np.zeros(len(p))
    for a, b in zip(
        ring, np.roll(ring, -1, axis=0), strict=True
    ):  # how often the plan winds round each place
        one, other = a - p[:, :2], b - p[:, :2]
        turned += np.arctan2(
            one[:, 0] * other[:, 1] - one[:, 1] * other[:, 0], (one * other).sum(axis=1)
        )
    flat[np.abs(turned) > math.pi] = 0
    return np.hypot(flat, np.maximum(np.maximum(low[2] - p[:, 2], p[:, 2] - high[2]), 0))


@given(zone=zones(), points=st.lists(PLACE, min_size=2, max_size=4))
@settings(max_examples=40, deadline=None)
def test_clearances_agree_with_dense_sampling(
    zone: Zone, points: list[tuple[float, float, float]]
) -> None:
    line = polyline(points)
    total = float(line.along[-1])
    if total < 20:
        return
    dense = np.array([line.at(s) for s in np.linspace(0, total, 700)])
    wanted = far_from(zone, dense)
    found, along = nearest(zone, line)
    spacing = total / 699
    assert max(found, 0.0) <= wanted.min() + 0.6
    assert max(found, 0.0) >= wanted.min() - spacing
    assert max(float(distance(zone, np.array([line.at(along)]))[0]), 0.0) == pytest.approx(
        max(found, 0.0), abs=0.1
    )
    within = sum(b - a for a, b in stretches(zone, line, 50.0))
    assert within == pytest.approx(float((wanted < 50).mean()) * total, abs=0.02 * total + 3 * 20)


@given(points=st.lists(PLACE, min_size=2, max_size=5), level=C)
@settings(max_examples=40, deadline=None)
def test_panels_are_crossed_where_a_line_changes_its_side(
    points: list[tuple[float, float, float]], level: float
) -> None:
    assume(
        all(abs(p[0] - level) > 1e-6 for p in points)
    )  # one that just touches it neither goes through nor stays clear
    panel = Panel(name="p", low=(level, -400, -400), high=(level, 500, 600))
    line = polyline(points)
    for along, at in crossings(panel, line):
        assert at[0] == pytest.approx(level, abs=1e-6)
        assert -400 <= at[1] <= 500
        assert -400 <= at[2] <= 600
        assert at == pytest.approx(line.at(along), abs=1e-5)
    signs = np.sign([p[0] - level for p in points])
    inside = crossings(Panel(name="p", low=(level, -5000, -5000), high=(level, 5000, 5000)), line)
    assert len(inside) == int((signs[:-1] * signs[1:] < 0).sum())


# AC 43.13-1B, tables of tube supports and of least bend radii [in], from memory through the
# handbook of physics; hose every 24 in.
SUPPORTS = {
    "-4": (13.5, 16),
    "-6": (16.5, 20),
    "-8": (19, 23),
    "-10": (22, 25.5),
    "-12": (24, 27.5),
    "-16": (26.5, 30),
}
ALUMINIUM_BEND = {"-4": 9 / 16, "-6": 15 / 16, "-8": 1.25, "-10": 1.5, "-12": 1.75, "-16": 3.0}
PTFE_BEND = {"-4": 2.0, "-6": 4.0, "-8": 5.2, "-10": 6.5, "-12": 7.7, "-16": 9.0}  # SAE 100R14


@pytest.mark.parametrize("dash", SUPPORTS)
def test_supports_and_bends_are_those_of_the_tables(dash: str) -> None:
    row = next(r for r in table("supports") if r["dash"] == dash)
    assert (row["aluminium_mm"], row["steel_mm"], row["hose_mm"]) == pytest.approx(
        (SUPPORTS[dash][0] * 25.4, SUPPORTS[dash][1] * 25.4, 24 * 25.4), abs=0.1
    )
    bends = {r["family"]: r["bend_radius_mm"] for r in table("hose_families") if r["dash"] == dash}
    assert bends["aluminium"] == pytest.approx(ALUMINIUM_BEND[dash] * 25.4, abs=0.1)
    assert bends["ptfe"] == pytest.approx(PTFE_BEND[dash] * 25.4, abs=0.7)


@pytest.mark.parametrize("angle", [10, 45, 90, 150])
@pytest.mark.parametrize("ratio", [3, 10, 25])
def test_a_bends_loss_is_that_of_fluids_less_its_friction(angle: int, ratio: int) -> None:
    whole = fluids.fittings.bend_rounded(
        0.0127, angle, rc=0.0127 * ratio, fd=0.02, method="Rennels"
    )
    assert bend_coefficient(math.radians(angle), 0.0127 * ratio, 0.0127, 0.02) == pytest.approx(
        whole - 0.02 * math.radians(angle) * ratio, rel=1e-9
    )


@pytest.mark.parametrize("name", ["bittern", "egret", "stonechat"])
def test_a_dxf_read_back_gives_the_lengths(name: str) -> None:
    laid = lay_out(demo_builds()[name])
    drawing = ezdxf.read(io.StringIO(to_dxf(laid, name)))  # type: ignore[attr-defined]
    assert drawing.units == ezdxf.units.MM
    ends = {
        tuple(round(v, 1) for v in x.run.one.port.seat): x
        for x in laid.lines.values()
        if not x.inside
    }
    met = set()
    for line in drawing.modelspace().query("POLYLINE"):
        points = np.array([tuple(v.dxf.location) for v in line.vertices])
        found = ends.get(tuple(round(float(v), 1) for v in points[0]))
        if (
            line.dxf.layer in ("FEED", "RETURN", "SUCTION", "VENT", "REFERENCE")
            and found is not None
        ):
            assert np.linalg.norm(np.diff(points, axis=0), axis=1).sum() == pytest.approx(
                found.length, abs=0.5
            )
            met.add(found.element.id)
    assert len(met) == len(ends)
    rows = list(csv.DictReader(io.StringIO(points_csv(laid))))
    h3 = [r for r in rows if r["line"] == "H3"]
    assert len(h3) == 4 + len(laid.lines["H3"].run.corners)
    assert f'id="{next(iter(met))}"' in to_svg(laid, name, "plan")


def test_what_is_measured_between_two_boxes_is_their_gap() -> None:
    things = measurable(lay_out(demo_builds()["bittern"]))
    far = between(things["S1"], things["F2"])
    assert far.clear == pytest.approx(
        math.dist((1060 - (410 + 380), 430 - 220 - 32.5), (0, 0)), abs=60
    )
    assert far.by[0] == pytest.approx(1145 - 410)
    assert between(things["H3"], things["downpipe"]).clear == pytest.approx(123, abs=8)
