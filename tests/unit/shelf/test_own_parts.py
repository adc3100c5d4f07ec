"""A pump's sheet read as makers write it, wrong units noticed, impossible curves refused; own parts
fitted like any other.
"""

import pytest
from pydantic import ValidationError

from tall_heron.core.document.faces import read_face
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.fields import fit
from tall_heron.core.shelf.curve_file import CurveTable, read_curves
from tall_heron.core.shelf.own_part import ADAPTER, on_shelf, stem_of
from tall_heron.core.shelf.sheet_text import read_sheet
from tall_heron.core.sizing.swaps import make_swaps
from tall_heron.core.study.study import make_study


def points(table: CurveTable) -> list[list[list[float]]]:
    assert table.wrong == ()
    return [[[round(x, 1) for x in row] for row in c.rows] for c in table.curves]


WANTED = [
    [[0.0, 551.6], [189.3, 275.8], [378.5, 0.0]]
]  # 80, 40 and 0 psi (6.894757 kPa) at 0, 50 and 100 US gal/h (3.785412 L), SI by hand


@pytest.mark.parametrize(
    "text",
    [
        "flow (gph),pressure (psi)\n0,80\n50,40\n100,0",
        "Pressure [psi];Flow [gph]\n80;0\n0;100\n40;50\n",
        "﻿flow gph\tpressure psi\n0\t80\n100\t0\n50\t40",
        '"Flow (gph)","Pressure (psi)"\n"0","80"\n"50,0","40"\n"100","0"',
        "# from the maker\nflow (gph); pressure (bar); note (mm)\n0; 5,5158; a\n50; 2,7579; b\n100; 0; c",
    ],
)
def test_units_order_and_decimal_commas(text: str) -> None:
    assert points(read_curves(text, 13.5)) == WANTED


def test_currents_and_several_voltages() -> None:
    table = read_curves(
        "U (V); q (L/h); p (kPa); I (A)\n13,5; 300; 0; 5\n12; 0; 500; 9\n12; 250; 0; 4,4\n13,5; 0; 600; 11",
        10,
    )
    assert [c.voltage_v for c in table.curves] == [12, 13.5]
    assert points(table)[1] == [[0, 600, 11], [300, 0, 5]]
    assert "“I (A)” is current in A" in table.notes


@pytest.mark.parametrize(
    ("text", "line", "says"),
    [
        (
            "flow (L/h); pressure (bar)\n0; 650\n300; 0",
            2,
            "650 bar is more than any fuel pump gives. Is the column in kpa?",
        ),
        (
            "flow (L/h); pressure (kPa)\n0; 6,5\n300; 0",
            2,
            "6.5 kpa is too little for a fuel pump. Is the column in psi or bar?",
        ),
        ("flow (gal/h); pressure (psi)\n0;80\n50;0", 1, "US or imperial"),
        ("flow; pressure (psi)\n0;80\n50;0", 1, "names no unit"),
        ("pressure (psi); height (mm)\n0;80\n50;0", 1, "no column holds flow"),
        ("flow (L/h); pressure (kPa)\n0; 600\n200; 650\n300; 0", 3, "more pressure at more flow"),
        (
            "flow (L/h); pressure (kPa)\n0; 600\n200; 600\n300; 0",
            3,
            "the same pressure at more flow",
        ),
        ("flow (L/h); pressure (kPa)\n0; 600\n200; 400\n200; 300", 4, "two points at 200 L/h"),
        ("flow (L/h),pressure (kPa)\n1,5,600\n300,5,0", 2, "part the columns with semicolons"),
        (
            "flow (L/h); pressure (kPa)\n0; lots\n300; 0",
            2,
            "“lots” under “pressure (kPa)” is not a number",
        ),
        ("flow (L/h); pressure (kPa)\n-5; 600\n300; 0", 2, "below zero"),
        ("", 0, "give a line of headers"),
        ("x" * 50_000, 0, "longer than"),
    ],
)
def test_what_is_wrong_is_said_with_its_line(text: str, line: int, says: str) -> None:
    table = read_curves(text, 13.5)
    assert table.curves == ()
    assert table.wrong[0].line == line
    assert says in table.wrong[0].message


def own_pump(flow: float) -> str:
    rows = [[0, 900], [flow * 0.7, 600], [flow, 0]]
    part = {"law": "pump", "curves": [{"voltage_v": 13.5, "rows": rows}]}
    return ADAPTER.validate_python(
        {
            "title": "Pump from the tin",
            "kind": "pump",
            "figures": part,
            "properties": {"provenance": "guessed"},
        }
    ).model_dump_json()


def test_an_own_part_is_tried_and_fitted_like_any_other() -> None:
    own = [on_shelf(stem_of("Pump from the tin"), own_pump(900))]
    build = demo_builds()["bittern"]
    study = make_study(build)
    rows = make_swaps(study, "peak", build.circuit.element("P1"), own)  # type: ignore[arg-type]
    mine = next(s for s in rows if s.part.name == "own-pump-from-the-tin")
    assert mine.part.source == "guessed"
    assert mine.headroom > study.headroom(study.peak)  # type: ignore[operator]
    fitted = fit(build, "P1", "own-pump-from-the-tin", own).circuit.element("P1")
    assert (fitted.title, fitted.properties.provenance) == ("Pump from the tin", "guessed")  # type: ignore[union-attr]
    with pytest.raises(ValidationError):
        on_shelf(
            "own-x", '{"title": "x", "kind": "pump", "figures": {"law": "pump", "curves": []}}'
        )


SHEET = """Yard 500 inline fuel pump
Inlet: -10 ORB
Outlet thread: M18 x 1,5
Fuels: gasoline, E85, but not methanol
Weight (kg): 1.2
Max lift: 12 in
Works by: gerotor
Color: black
Flow (lph); Pressure (psi); Current (A)
500; 0; 9
440; 43; 13"""


def test_a_pasted_sheet_is_put_under_its_fields_and_what_is_not_understood_is_named() -> None:
    sheet = read_sheet(SHEET)
    assert (sheet.kind, sheet.unread) == ("pump", ["Color: black"])
    wanted = {
        "title": "Yard 500 inline fuel pump",
        "port_start": "-10 ORB",
        "port_end": "M18 x 1,5",
        "gasoline": "yes",
        "ethanol": "85 %",
        "methanol": "no",
        "mass": "1.2 kg",
    }
    assert sheet.texts == wanted | {
        "height": "12 in",
        "pump_kind": "gerotor",
        "points": "\n".join(SHEET.splitlines()[-3:]),
    }
    assert read_sheet("Flow: 340 lph", "filter").texts == {"flow": "340 lph"}, (
        "where the text says no kind, the form's holds"
    )
    with pytest.raises(ValueError, match="Nothing was pasted"):
        read_sheet(" \n")


@pytest.mark.parametrize(
    ("text", "wanted"),
    [
        ("-10 ORB", "port -10"),
        ("AN-8", "flare -8"),
        ("3/8 NPT", "pipe 3/8"),
        ("1/4 npt male", "taper 1/4"),
        ("m14 x 1,5", "metric M14x1.5"),
        ("-6 hose barb", "barb -6"),
        ("3/8 45° flare", "flare45 3/8"),
        ("nut -12", "nut -12"),
    ],
)  # SAE J1926, J514, ASME B1.20.1, ISO 261, J512 as builders write them
def test_threads_are_read_as_builders_write_them(text: str, wanted: str) -> None:
    assert read_face(text).text == wanted


@pytest.mark.parametrize("text", ["", "-7 ORB", "banana", "1/3 NPT", "M14"])
def test_a_thread_that_is_none_is_refused(text: str) -> None:
    with pytest.raises(ValueError, match="no thread"):
        read_face(text)


@pytest.mark.parametrize(
    "text",
    [
        "1," * 5000 + "x",
        "(" * 9000 + ":" + "1" * 9000,
        "x " * 9000 + "=1",
        "Fuels: " + "not " * 4000 + "methanol",
        "- " * 9000 + ": 3",
    ],
)
def test_a_sheet_made_to_hang_its_reader_is_read_like_any_other(text: str) -> None:
    """Not timed: a pattern that explodes would not come back from these."""
    assert read_sheet(f"{text[:19000]}\nFlow: 3 lph", "filter").texts["flow"] == "3 lph"
