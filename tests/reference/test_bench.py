"""The bench against geometry written anew: hoses made again from the order alone, cut plans against
every way there is, tubes bent again from the printed table, the six hoses of Bittern by hand.
"""

import csv
import io
import itertools
import math
import random
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tall_heron.core.document.build import Build
from tall_heron.core.document.circuit import End
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.drawn import followed
from tall_heron.core.editing.fields import set_own_end
from tall_heron.core.routing.laid import Laid, LaidLine, lay_out
from tall_heron.core.routing.run import RunEnd
from tall_heron.core.sheets.bend_sheet import make_bend_sheets
from tall_heron.core.sheets.cut_plan import CENT, Stock, plan_cuts
from tall_heron.core.sheets.cut_sheet import make_cut_sheet, tolerance_of
from tall_heron.core.sheets.order_form import make_orders, order_csv

DEMO = demo_builds()
Vec = np.ndarray


def rotation(axis: Vec, angle: float) -> Vec:
    """Rodrigues' matrix."""
    x, y, z = axis / np.linalg.norm(axis)
    k = np.array([[0, -z, y], [z, 0, -x], [-y, x, 0]])
    return np.eye(3) + math.sin(angle) * k + (1 - math.cos(angle)) * k @ k


def made_and_laid(row: dict[str, str], line: LaidLine) -> tuple[float, float, float]:
    """A hose made from a row of the order alone and laid along a line's corners from end A on: by
    how much its middle line is too long [mm], how far its seat B misses the port [mm], and by
    how much its end B looks past it [deg].
    """
    a = {
        what: float(row[f"end_a_{what}"])
        for what in ("angle_deg", "seat_to_corner_mm", "corner_to_hose_mm", "hose_goes_in_mm")
    }
    b = {
        what: float(row[f"end_b_{what}"])
        for what in ("angle_deg", "seat_to_corner_mm", "corner_to_hose_mm", "hose_goes_in_mm")
    }
    along = [
        e["corner_to_hose_mm"] + e["seat_to_corner_mm"] * math.cos(math.radians(e["angle_deg"]))
        for e in (a, b)
    ]
    hose = float(row["overall_mm"]) - sum(along)  # what is bare between its ends
    assert hose == pytest.approx(
        float(row["seat_to_seat_mm"])
        - sum(e["corner_to_hose_mm"] + e["seat_to_corner_mm"] for e in (a, b)),
        abs=0.02,
    )
    points = [np.array(p) for p in line.run.points]
    legs = [(q - p) / np.linalg.norm(q - p) for p, q in itertools.pairwise(points)]
    # It leaves end A as that points, follows its legs, and goes into end B as that points: where a
    # leg is not quite in line with its end, the hose bends there as well.
    way = [np.array(line.run.one.leaves), *legs, -np.array(line.run.other.leaves)]
    # The side of end A, as it sits on its port: from where the hose begins toward its seat, across
    # the hose.
    up = np.array(line.run.one.port.seat) - points[0]
    up = up - way[0] * (up @ way[0])
    corners = 0.0
    for i, (before, after) in enumerate(itertools.pairwise(way)):
        axis, turn = np.cross(before, after), math.acos(max(-1.0, min(1.0, before @ after)))
        if turn > 1e-7:
            up = rotation(axis, turn) @ up
            corners += (
                line.run.radius * (turn - 2 * math.tan(turn / 2)) if 0 < i < len(way) - 2 else 0.0
            )
    bare = sum(float(np.linalg.norm(q - p)) for p, q in itertools.pairwise(points)) + corners
    away = np.array(line.run.other.port.away)
    clock = 0.0 if row["clocking_deg"] in ("any", "ask") else float(row["clocking_deg"])
    if a["angle_deg"] < 1e-6 or b["angle_deg"] < 1e-6:
        return hose - bare, 0.0, 0.0
    up = up / np.linalg.norm(up)
    # Seen from B with A's side up, the right hand is the direction of sight (back to A) crossed
    # with up.
    sight = -way[-1]
    side = math.cos(math.radians(clock)) * up + math.sin(math.radians(clock)) * np.cross(sight, up)
    bent = math.radians(b["angle_deg"])
    looks = (
        math.cos(bent) * way[-1] + math.sin(bent) * side
    )  # the way on through end B into its part
    off = math.degrees(math.acos(max(-1.0, min(1.0, float(looks @ -away)))))
    end = points[-1] + b["corner_to_hose_mm"] * way[-1] + b["seat_to_corner_mm"] * looks
    return hose - bare, float(np.linalg.norm(end - np.array(line.run.other.port.seat))), off


def exact(build: Build) -> tuple[Build, Laid]:
    """A build whose clocks are not rounded to whole degrees, as its lines are drawn."""
    laid = lay_out(build)
    elements = []
    for e in build.circuit.elements:
        clock = laid.lines[e.id].run.clock if e.id in laid.lines else None
        elements.append(
            e.model_copy(update={"clock_deg": math.degrees(clock) % 360})
            if e.clock_deg is not None and clock is not None
            else e
        )
    return build.model_copy(
        update={"circuit": build.circuit.model_copy(update={"elements": elements})}
    ), laid


@pytest.mark.parametrize("name", ["bittern", "stonechat", "egret"])
def test_hoses_are_made_again_from_the_order_alone(name: str) -> None:
    build, laid = exact(DEMO[name])
    read = list(
        csv.DictReader(io.StringIO(order_csv(make_orders(make_cut_sheet(build, laid)), "overall")))
    )
    assert len(read) >= 4
    bent = 0
    for row in read:
        line = laid.lines[row["label"].split()[0]]
        if line.inside:
            continue
        long, miss, off = made_and_laid(row, line)
        assert abs(long) < 0.1, row["label"]
        assert off < 0.1, (row["label"], off)
        assert miss < 0.15
        bent += row["clocking_deg"] != "any"
    assert bent >= 1


AHEAD_MM = 800.0


def ahead(end: RunEnd, clockwise: float) -> tuple[float, ...]:
    """A corner that an end looks at when it is turned on its port so far [deg], in line with where
    its hose leaves it: seat, leg a along the port, leg b and on along the bent end.
    """
    away = np.array(end.port.away)
    first = np.cross(away, [0.0, 0.0, 1.0] if abs(away[2]) < 0.9 else [1.0, 0.0, 0.0])
    side = rotation(away, math.radians(clockwise)) @ (first / np.linalg.norm(first))
    tube = math.cos(end.angle) * away + math.sin(end.angle) * side
    corner = np.array(end.port.seat) + end.leg_a * away + (end.leg_b + AHEAD_MM) * tube
    return tuple(float(x) for x in corner)


@given(
    angles=st.tuples(
        st.sampled_from([30.0, 45.0, 60.0, 90.0, 120.0]),
        st.sampled_from([30.0, 45.0, 60.0, 90.0, 120.0]),
    ),
    legs=st.tuples(st.floats(5, 60), st.floats(15, 80), st.floats(5, 60), st.floats(15, 80)),
    turned=st.tuples(st.floats(-180, 180), st.floats(-180, 180)),
)
@settings(max_examples=60, deadline=None)
def test_random_ends_of_ones_own_are_made_again(
    angles: tuple[float, float], legs: tuple[float, ...], turned: tuple[float, float]
) -> None:
    """Bittern's H3 with ends of one's own, their legs typed and turned on their ports anyhow, drawn
    so that the hose leaves each end as that points: 0.1 mm and 0.1 deg.
    """
    build = DEMO["bittern"]
    for side, angle, a, b in (("a", angles[0], *legs[:2]), ("b", angles[1], *legs[2:])):
        a, b = round(a, 2), round(b, 2)
        build = set_own_end(
            build,
            "H3",
            side,
            End(
                angle_deg=angle,
                take_up_mm=a + b - 10,
                leg_a_mm=a,
                leg_b_mm=b,
                inserted_mm=10,
                throat_bore_mm=10,
            ),
        )

    def drawn(build: Build, **changes: object) -> Build:
        route = build.space.routes["H3"].model_copy(update=changes)
        return build.model_copy(
            update={
                "space": build.space.model_copy(
                    update={"routes": build.space.routes | {"H3": route}}
                )
            }
        )

    run = lay_out(build).lines["H3"].run
    build, laid = exact(
        followed(
            drawn(
                build,
                corners=[ahead(run.one, turned[0]), ahead(run.other, turned[1])],
                turned_a_deg=0.0,
                turned_b_deg=0.0,
            )
        )
    )
    line = laid.lines["H3"]
    assert max(line.run.kinks) < 1e-6
    if line.trouble or not all(b.fits for b in line.run.bends):
        return
    orders = make_orders([r for r in make_cut_sheet(build, laid) if r.element.id == "H3"])
    row = next(csv.DictReader(io.StringIO(order_csv(orders, "seat to seat"))))
    long, miss, off = made_and_laid(row, line)
    assert abs(long) < 0.1
    assert off < 0.1
    assert miss < 0.15


def test_a_worked_order_by_hand() -> None:
    """W1 of the route's worked figures as an order: ends of 90 deg with legs 25 and 40 mm, 12 mm of
    hose in each; centre line 920: seat to seat 1050 mm, overall 1000 mm, hose 944 mm.
    """
    own = End(
        angle_deg=90, take_up_mm=53, leg_a_mm=25, leg_b_mm=40, inserted_mm=12, throat_bore_mm=10
    )
    build = set_own_end(set_own_end(DEMO["curlew"], "H4", "a", own), "H4", "b", own)
    elements = [
        e.model_copy(
            update={"length": e.length.model_copy(update={"mm": 1050.0}), "clock_deg": 90.0}
        )
        if e.id == "H4" and e.length
        else e
        for e in build.circuit.elements
    ]
    build = build.model_copy(
        update={"circuit": build.circuit.model_copy(update={"elements": elements})}
    )
    order = next(o for o in make_orders(make_cut_sheet(build)) if o.label.startswith("H4"))
    assert (order.seat_to_seat_mm, order.overall_mm, order.cut_mm) == pytest.approx(
        (1050, 1000, 944)
    )
    assert order.length_mm("overall") == pytest.approx(1000)
    assert order.end_a.drop_mm == pytest.approx(25)


def every_plan(pieces: list[float], stocks: list[Stock], kerf: float) -> float:
    """The least cost of any way to cut pieces: every way to part them into heaps, each heap from
    the cheapest length that holds it.
    """
    foot = next((s for s in stocks if s.by_foot), None)

    def cheapest(heap: list[float]) -> float:
        need = sum(heap) + kerf * (len(heap) - 1)
        costs = [
            s.price + CENT * s.length for s in stocks if not s.by_foot and s.length >= need - 1e-9
        ]
        if foot is not None:
            feet = math.ceil(need / foot.length - 1e-9)
            costs.append(feet * (foot.price + CENT * foot.length))
        return min(costs, default=math.inf)

    def heaps(rest: list[float]) -> list[list[list[float]]]:
        if not rest:
            return [[]]
        out = []
        for smaller in heaps(rest[1:]):
            out += [
                [*smaller[:i], [rest[0], *h], *smaller[i + 1 :]] for i, h in enumerate(smaller)
            ] + [[[rest[0]], *smaller]]
        return out

    return min(sum(cheapest(h) for h in heap) for heap in heaps(pieces))


def test_cut_plans_are_no_worse_than_every_way_there_is() -> None:
    """Forty small cases: coils alone, feet alone, both; up to six pieces, all 203 ways to part
    them.
    """
    r = random.Random(20261127)
    stopped = 0
    for case in range(40):
        kind = case % 3
        stocks = []
        if kind != 1:
            stocks += [
                Stock(length, length / 1000 * 30 * r.uniform(0.8, 1.1))
                for length in r.sample([1829.0, 3048.0, 4572.0, 6096.0, 7620.0], 2)
            ]
        if kind != 0:
            stocks.append(Stock(304.8, 304.8 / 1000 * 30, True))
        longest = math.inf if kind != 0 else max(s.length for s in stocks)
        pieces = [min(r.uniform(150, 3500), longest - 1) for _ in range(r.randint(2, 6))]
        plan = plan_cuts([(f"H{i}", mm) for i, mm in enumerate(pieces)], stocks, 3.0, 20.0)
        cost = sum(x.price + CENT * x.bought for x in plan.lengths)
        assert cost <= every_plan(pieces, stocks, 3.0) + 1e-6, (case, pieces)
        assert sorted(p[0] for x in plan.lengths for p in x.pieces) == sorted(
            f"H{i}" for i in range(len(pieces))
        )
        for x in plan.lengths:
            ends = [0.0 - 3.0] + [z for _, _, z in x.pieces]
            assert all(
                a == pytest.approx(before + 3.0)
                for (_, a, _), before in zip(x.pieces, ends, strict=False)
            )
            assert x.left >= -1e-6
        stopped += bool(plan.stopped)
    assert stopped == 0


def test_a_piece_longer_than_any_stock_is_said_and_the_rest_is_cut() -> None:
    plan = plan_cuts([("H1", 900.0), ("H2", 2500.0)], [Stock(1829.0, 40.0)], 3.0)
    assert plan.without == ("H2",)
    assert [p[0] for x in plan.lengths for p in x.pieces] == ["H1"]
    many = plan_cuts([(f"H{i}", 500.0) for i in range(60)], [Stock(1829.0, 40.0)], 3.0)
    assert "longest first" in many.stopped
    assert len(many.lengths) == 20  # three of 500 mm to 1829 mm
    free = plan_cuts(
        [("H1", 700.0), ("H2", 700.0)],
        [Stock(800.0, 0.0, False, True), Stock(304.8, 9.0, True)],
        3.0,
    )
    assert free.price == pytest.approx(27.0)  # one from the offcut, the other three feet
    assert free.bought == pytest.approx(3 * 304.8)


@pytest.mark.parametrize("name", ["egret", "dunlin", "plover"])
def test_tubes_are_bent_again_from_the_printed_table(name: str) -> None:
    """The marks on the straight tube, bent one after another, put its far end and every corner
    where the line has them, within 0.5 mm.
    """
    laid = lay_out(DEMO[name])
    seen = 0
    for sheet in make_bend_sheets(laid):
        if sheet.trouble:
            continue
        seen += 1
        run = laid.lines[sheet.element.id].run
        points = [np.array(p) for p in run.points]
        way = (points[1] - points[0]) / np.linalg.norm(points[1] - points[0])
        here, done, normal, corners = points[0] - way * run.one.inserted, 0.0, None, []
        legs = [(q - p) / np.linalg.norm(q - p) for p, q in itertools.pairwise(points)]
        turns = [
            np.cross(a, b)
            for a, b in itertools.pairwise(legs)
            if np.linalg.norm(np.cross(a, b)) > 1e-6
        ]
        for row in sheet.rows:
            normal = (
                turns[0]
                if normal is None
                else rotation(way, math.radians(row.rotation_deg)) @ normal
            )
            here = here + way * (row.starts_mm - done)
            corners.append(here + way * row.radius_mm * math.tan(math.radians(row.angle_deg) / 2))
            bent = rotation(normal, math.radians(row.angle_deg)) @ way
            here = corners[-1] + bent * row.radius_mm * math.tan(math.radians(row.angle_deg) / 2)
            way, done = bent, row.ends_mm
        here = here + way * (sheet.tube_mm - done - run.other.inserted)
        assert np.linalg.norm(here - points[-1]) < 0.5, sheet.element.id
        drawn = [
            p
            for p, a, b in zip(points[1:-1], legs, legs[1:], strict=False)
            if np.linalg.norm(np.cross(a, b)) > 1e-6
        ]
        assert (
            max(
                (float(np.linalg.norm(p - q)) for p, q in zip(corners, drawn, strict=True)),
                default=0.0,
            )
            < 0.5
        )
        if sheet.flat:
            far = [math.dist(p, q) for p, q in itertools.pairwise(sheet.flat)]
            assert sum(far) == pytest.approx(run.center_line, rel=2e-3)
    assert seen >= 1


def test_bitterns_six_hoses_by_hand() -> None:
    """docs/bittern-hoses.md, step by step: seat to seat less what both ends take up, from the
    page's own table.
    """
    import re
    from pathlib import Path

    page = (Path(__file__).parents[2] / "docs/bittern-hoses.md").read_text(encoding="utf-8")
    rows = re.findall(
        r"^\| (H\d) \| ([\d,.]+) \| ([\d.]+) \| ([\d.]+) \| ([\d,.]+) \| (\w+) \|$",
        page,
        re.MULTILINE,
    )
    bench = {r.element.id: r for r in make_cut_sheet(DEMO["bittern"], lay_out(DEMO["bittern"]))}
    assert [r[0] for r in rows] == list(bench)
    for line, seat, a, b, cut, clock in rows:
        seat_mm, cut_mm = Fraction(seat.replace(",", "")), Fraction(cut.replace(",", ""))
        assert seat_mm - Fraction(a) - Fraction(b) == cut_mm
        mine = bench[line]
        assert float(seat_mm) == pytest.approx(mine.cut.face_mm, abs=0.05)
        assert (float(a), float(b)) == mine.cut.take_up_mm
        assert float(cut_mm) == pytest.approx(mine.cut.cut_mm or 0.0, abs=0.05)
        known = mine.element.clock_deg
        assert clock == ("any" if known is None else f"{known:g}")


# SAE J517 assembly length tolerances, from memory: 1/8 in to 12 in, 3/16 to 18 in, 1/4 to 36 in, 1
# % beyond.
@pytest.mark.parametrize(
    ("inches", "sixteenths"), [(6, 2), (12, 2), (15, 3), (18, 3), (30, 4), (36, 4)]
)
def test_length_tolerances(inches: float, sixteenths: int) -> None:
    assert tolerance_of(inches * 25.4) == pytest.approx(sixteenths / 16 * 25.4, abs=0.06)
    assert tolerance_of(100 * 25.4) == pytest.approx(25.4)
