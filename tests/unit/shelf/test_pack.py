"""Packs of parts: out and in again as they were, in both forms; a spoilt one is refused whole, with
row and column.
"""

import csv
import io
import json
from random import Random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tall_heron.core.document.figures import Injectors, Pipe, PumpMap, Quadratic
from tall_heron.core.shelf.own_part import OwnPart, stem_of
from tall_heron.core.shelf.pack import (
    FORMAT,
    PackFaults,
    compared,
    pack_csv,
    pack_json,
    read_pack,
    schema,
)
from tall_heron.core.shelf.shelf import parts


def made(seed: int, count: int = 500) -> dict[str, OwnPart]:
    """So many parts of every kind that the shelf has, with prices of their own."""
    rnd, out = Random(seed), dict[str, OwnPart]()
    shelf = sorted(parts().values(), key=lambda p: p.name)
    for i in range(count):
        p = shelf[(i * 7 + seed) % len(shelf)]
        title = f"{rnd.choice(['=', '+', '', 'Ö', ''])}{p.title} {seed}/{i}"
        about = p.properties.model_copy(
            update={
                "price": round(rnd.uniform(1, 900), 2),
                "provenance": rnd.choice(["sheet", "measured", "guessed"]),
            }
        )
        out[f"own-{seed}-{i}"] = OwnPart(
            title=title, kind=p.kind, figures=p.figures, properties=about
        )
    return out


@pytest.mark.parametrize("seed", range(10))
def test_five_hundred_parts_go_out_and_come_in_as_they_were(seed: int) -> None:
    """Three of ten are spoilt: they are refused, and only for what was spoilt."""
    pack = made(seed)
    assert read_pack(pack_json(pack)) == pack
    text = pack_csv(pack)
    assert read_pack(text) == pack
    assert pack_csv(read_pack(text)) == text
    assert {d.state for d in compared(read_pack(text), pack)} == {"same"}
    if seed % 3 == 0 and seed:
        rows = list(csv.reader(io.StringIO(text)))
        column = rows[0].index("properties.price")
        for row in (17, 300):
            rows[row][column] = "cheap"
        out = io.StringIO()
        csv.writer(out).writerows(rows)
        with pytest.raises(PackFaults) as wrong:
            read_pack(out.getvalue())
        assert [(f.row, f.column) for f in wrong.value.faults] == [(18, "price"), (301, "price")]


def test_a_catalogue_is_typed_in_short_columns() -> None:
    text = (
        "kind;title;price;ethanol_max_percent;methanol;mount;points;rated_cc_min;flow_lph;drop_kpa;micron;medium;bore_mm;dash\n"
        "pump;Own 255;120,50;85;no;in-tank;0@600@12; 255@300@8;;;;;;;\n".replace(
            "0@600@12; 255@300@8", '"0@600@12; 255@300@8; 400@0@4"'
        )
        + "injector;Own 650;39;100;yes;;;650;;;;;;\n"
        "filter;Own mesh;20;100;yes;;;;300;4;40;stainless mesh;;-8\n"
        "hose;Own hose;18;100;yes;;;;;;;;11;-8\n"
    )
    pack = read_pack(text)
    assert list(pack) == [stem_of(t) for t in ("Own 255", "Own 650", "Own mesh", "Own hose")]
    pump, injector, filter_, hose = pack.values()
    assert isinstance(pump.figures, PumpMap)
    assert pump.figures.curves[0].flow_at(300) == pytest.approx(255)
    assert (pump.properties.price, pump.properties.methanol, pump.properties.mount) == (
        120.5,
        False,
        "in-tank",
    )
    assert isinstance(injector.figures, Injectors)
    assert injector.figures.rated_lph == pytest.approx(39.0)  # 650 cc/min x 60 / 1000
    assert isinstance(filter_.figures, Quadratic)
    assert (
        filter_.figures.a_kpa_per_lph * 300 + filter_.figures.b_kpa_per_lph2 * 300** 2
        == pytest.approx(4.0)
    )
    assert isinstance(hose.figures, Pipe)
    assert (hose.figures.bore_mm, hose.properties.dash) == (11, "-8")


@pytest.mark.parametrize(
    ("text", "faults"),
    [
        ("kind,title,colour\npump,A,red\n", [(1, "colour")]),
        ("kind,price\npump,3\n", [(1, "title")]),
        ("kind,title,title\npump,A,B\n", [(1, "title")]),
        ("kind,title,bore_mm\nwidget,A,3\nhose,B,-4\n", [(2, "kind"), (3, "bore_mm")]),
        ("kind,title,points\npump,A,many\n", [(2, "points")]),
        ("kind,title,bore_mm\nhose,A,5\nhose,A,6\n", [(3, "name")]),
        ('{"format": "other", "parts": []}', [(1, "format")]),
        ('{"format": 3', [(1, "")]),
        (
            json.dumps(
                {
                    "format": FORMAT,
                    "parts": [
                        3,
                        {"kind": "hose", "title": "", "figures": {"law": "pipe", "bore_mm": 5}},
                    ],
                }
            ),
            [(1, "kind"), (2, "title")],
        ),
        ("kind,title\n" + "pump,A\n" * 5001, [(1, "")]),
    ],
)
def test_what_is_wrong_is_said_with_row_and_column(
    text: str, faults: list[tuple[int, str]]
) -> None:
    with pytest.raises(PackFaults) as wrong:
        read_pack(text)
    assert [(f.row, f.column) for f in wrong.value.faults] == faults
    assert all(f.says for f in wrong.value.faults)


def test_a_pack_beside_the_shelf_says_what_is_new_and_what_is_other() -> None:
    pack = made(1, 4)
    first, second, third, _ = pack
    cheaper = pack[third].properties.model_copy(update={"price": 1.0})
    shelf = {
        first: pack[first],
        second: pack[second].model_copy(update={"title": "renamed"}),
        third: pack[third].model_copy(update={"properties": cheaper}),
    }
    assert [(d.state, d.fields) for d in compared(pack, shelf)] == [
        ("same", ()),
        ("differs", ("title",)),
        ("differs", ("properties.price",)),
        ("new", ()),
    ]


@given(st.text(max_size=400))
def test_no_text_breaks_it(text: str) -> None:
    """It is a pack of parts with names of their own, or has faults, and nothing else comes of it."""
    names, faults = list[str](), 0
    try:
        names = list(read_pack(text))
    except PackFaults as wrong:
        faults = len(wrong.faults)
    assert faults or all(n.startswith("own-") for n in names)


def test_the_schema_names_what_a_pack_holds() -> None:
    assert schema()["properties"]["format"] == {"const": FORMAT}
    assert set(schema()["properties"]["parts"]["items"]["properties"]) == {
        "name",
        "title",
        "kind",
        "figures",
        "properties",
        "supplier",
    }
