"""Runs as loggers write them: any order, units, separators; and what is said of those that cannot
be read.
"""

import numpy as np
import pytest

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
        ("t (s);ax\n0;0\n1;1", "names no unit"),
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


def test_the_runs_that_ship_are_read() -> None:
    seconds = {name: shipped(name).seconds for name in SHIPPED}
    assert seconds == pytest.approx({"lap": 94.9, "launch": 15.9, "descent": 179.5})
    assert np.abs(shipped("lap").readings[:, :2]).max() > 0.9
    assert shipped("descent").readings[:, 2].mean() == pytest.approx(0.98, abs=0.02)
