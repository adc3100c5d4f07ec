"""Runs as loggers write them: any order, units, separators; and what is said of those that cannot
be read.
"""

import numpy as np
import pytest

from tall_heron.core.base.log_columns import scale_of
from tall_heron.core.prove.log_head import read_head
from tall_heron.core.study.slosh.drive_file import SHIPPED, WrongRun, read_run, shipped


def test_semicolons_decimal_commas_any_order_of_columns_and_rows() -> None:
    run = read_run(
        "lap",
        "﻿ay (m/s2); time (s); rpm; ax (g)\n4,903325; 1,5; 5600; 0,25\n\n-9,80665; 0,5; 5500; -1\n",
    )
    assert run.times.tolist() == [0.0, 1.0]
    assert run.readings == pytest.approx(np.array([[-1.0, -1.0, 1.0], [0.25, 0.5, 1.0]]))
    assert run.loads.tolist() == [1.0, 1.0]
    assert not any("rpm" in x for x in run.notes)


def test_commas_points_milliseconds_and_a_share_of_load() -> None:
    run = read_run(
        "lap",
        "Time (ms),lateral (g),longitudinal (g),vertical (g),throttle (%)\n0,0.1,0.2,1.0,0\n500,0.1,0.2,1.1,50\n500,9,9,9,9\n",
    )
    assert run.times.tolist() == [0.0, 0.5]
    assert run.readings[1].tolist() == [0.2, 0.1, 1.1]
    assert run.loads.tolist() == [0.0, 0.5]
    assert "1 rows of a time that was there already are left out" in run.notes


def test_an_upward_column_that_reads_nothing_at_rest_gets_its_g() -> None:
    run = read_run("x", "t (s);az (m/s2);ax (g)\n0;0;0\n1;0,980665;0\n2;0;0")
    assert run.readings[:, 2] == pytest.approx([1.0, 1.1, 1.0])


def test_to_the_right_is_left_turned_round() -> None:
    assert read_run("x", "t (s);right (g)\n0;0,5\n1;0,5").readings[0].tolist() == [0.0, -0.5, 1.0]


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "line of headers"),
        ("ax (g);ay (g)\n0;0\n1;1", "No column holds the time"),
        ("t (s);rpm\n0;0\n1;1", "No column holds an acceleration"),
        ("t (s);ax (furlong)\n0;0\n1;1", "names no unit"),
        ("t (s);ax (g)\n0;0\n1;x", "Line 3: “x”"),
        ("t (s);ax (g)\n0;0\n1", "Line 3: 1 cells under 2 headers"),
        ("t (s),ax (g)\n0,0,5\n1,1,0", "part the columns with semicolons"),
        ("t (s);ax (g)\n0;9,8\n1;20", "is the column in m/s2"),
        ("t (s);ax (g)\n1;0\n1;0", "All rows hold one time"),
        ("t (s);ax (g)\n0;nan\n1;0", "is not a number"),
        ("t (s);ax (g);ahead (g)\n0;0;0\n1;0;0", "Two columns hold ahead"),
        ("t (s);ax (g)\n" + "0;0\n" * 20_001, "keep every tenth"),
    ],
)
def test_what_is_wrong_is_said(text: str, says: str) -> None:
    with pytest.raises(WrongRun, match=says):
        read_run("x", text)


@pytest.mark.parametrize("header", ["ax (ft/s2)", "surge (g)", "ahead"])
def test_a_header_is_read_as_prove_reads_it(header: str) -> None:
    """One reader of headers: what a drive knows, a log knows, in the same unit."""
    table = f"t;{header};rail (kPa);rpm\n" + "".join(f"{i};0.5;300;3000\n" for i in range(20))
    head = read_head(table)
    key, unit = next((c.key, c.unit) for c in head.columns if c.header == header)
    assert key == "ahead"
    scale = scale_of(key, unit)
    assert scale is not None
    drive = read_run("x", table)
    assert drive.readings[0, 0] * 9.80665 == pytest.approx(0.5 * scale[0])


def test_a_clock_that_goes_back_begins_another_run_and_the_longest_is_taken() -> None:
    rows = [(i, 0.1) for i in range(40)] + [(i, 0.5) for i in range(60)]
    run = read_run("x", "time (s);ax (g)\n" + "".join(f"{t};{a}\n" for t, a in rows))
    assert run.seconds == 59
    assert set(run.readings[:, 0]) == {0.5}
    assert any("goes back 1 times" in x for x in run.notes)


def test_the_runs_that_ship_are_read() -> None:
    seconds = {name: shipped(name).seconds for name in SHIPPED}
    assert seconds == pytest.approx({"lap": 94.9, "launch": 15.9, "descent": 179.5})
    assert np.abs(shipped("lap").readings[:, :2]).max() > 0.9
    assert shipped("descent").readings[:, 2].mean() == pytest.approx(0.98, abs=0.02)
