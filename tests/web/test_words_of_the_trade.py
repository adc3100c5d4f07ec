"""Words are those of the trade, in US spelling: no page, sheet, head of a file or message says what
a parts counter, a dyno operator or a mechanic would not.
"""

import re
from pathlib import Path

import pytest
from first_lines import LINES
from flask.testing import FlaskClient
from pages_text import walked

from tall_heron.core.base.terms import terms
from tall_heron.core.begin.started import start
from tall_heron.core.document.build import dump
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.rules import CASE_RULES, ROUTE_RULES, RULES, WIRING_RULES
from tall_heron.store import builds, db

DEMOS = tuple(demo_builds())
IN_SUITE = ("bittern",)  # the others in the sweep
# What is not said, and what is said instead; common practice, SAE J514, J517 and J1926 for ends and
# ports.
INSTEAD = {
    r"engine burns|\bthe burn\b|\bburnt\b|over burn": "fuel demand",
    r"pumps deliver": "pump flow",
    r"\bto spare\b|spare (?:over|flow)": "pump headroom",
    r"clear of boiling": "vapor margin",
    r"\bstands? (?:[\d.,]+ \S+ )?(?:high|low)\b": "reads high, low",
    r"\b[Pp]umps? stands?\b": "pumps off",
    r"\bstands? behind PR": "return back-pressure",
    r"\bturns? back\b(?! by)": "bypasses",
    r"\bis said\b|\bsaid [\d−]": "predicted",
    r"\bcaught at\b|^Caught$": "collected",
    r"give or take|[Ss]ure to,": "uncertainty, ±",
    r"\b[Rr]eckon": "calculate",
    r"\bby rule\b": "automatic",
    r"[Ll]et it be\b": "keep as is",
    r"would not do\b": "falls short",
    r"[Ss]uggest (?:a )?ways?\b": "auto-route",
    r"[Hh]ottest fuel, high up": "hot fuel at altitude",
    r"left if a pump": "flow with one pump out",
    r"circuit feeds": "supports (hp)",
    r"toss-up": "marginal",
    r"[Ss]how me why": "show the math",
    r"(?:^| )ends: (?:duty|pumps)": "limited by",
    r"\bY (?:merge|split)\b": "Y-block",
    r"tank hanger": "pump hanger",
    r"mesh strainer|[Nn]o strainer": "pre-filter, sock",
    r"\bsurge pot|\b[Tt]he pot\b|\b[Aa] pot\b(?! of)": "surge tank",
    r"port for an O-ring": "ORB port",
    r"\b[Jj]oints?\b": "connection",
    r"37° (?:flare, outside thread|swivel nut)": "male AN, female AN swivel",
    r"coupler, nut to nut": "female coupler",
    r"[Tt]ake-up|\b[Tt]akes? up\b": "cut-off allowance",
    r"\b(?:its|guessed|a) clock\b": "clocking angle",
    r"\b[Oo]ff the roll": "cut from the roll",
    r"[Mm]ade to order": "hose order form",
    r"[Jj]ob order": "build sequence",
    r"not to be had": "out of stock until",
    r"Injectors, rail\b": "injector fit",
    r"\b[Oo]n the move\b": "slosh",
    r"dry stretch": "outlet uncovered",
    r"[Cc]ut out:": "axis broken at",
    r"stand-in (?:car|rig)": "simulated car",
    r"[Hh]ouse rules?\b": "rules",
    r"[Vv]apour|[Pp]etrol\b|[Cc]olour|[Cc]arburettor|[Aa]luminium|\blitres?\b|\bmetres?\b|\bfibre|[Ss]panner|\bbonnet|\bearthed\b|\bkerbs?\b|\bcentre\b|\bneighbours?\b": "US spelling and words",
}
WRONG = [(re.compile(p), instead) for p, instead in INSTEAD.items()]
# What a builder or an inventor of the demo wrote himself stands as he wrote it.
TYPED = re.compile(r"Lines flushed into the grey can|the can said")


def faults(here: str, texts: list[str]) -> list[str]:
    return [
        f"{here}: “{t[:120]}”: say {instead}"
        for t in texts
        if not TYPED.search(t)
        for pattern, instead in WRONG
        if pattern.search(t)
    ]


@pytest.mark.parametrize(
    "slug", [d if d in IN_SUITE else pytest.param(d, marks=pytest.mark.sweep) for d in DEMOS]
)
def test_no_page_of_a_demo_speaks_otherwise(client: FlaskClient, slug: str) -> None:
    found, count = [], 0
    for here, texts in walked(
        client, [f"/builds/{slug}/circuit", f"/compare?a={slug}&b={DEMOS[0]}"], f"/builds/{slug}/"
    ):
        found += faults(here, texts)
        count += 1
    assert count > 40
    assert not found, "\n".join(found[:20])


def test_no_page_of_builds_begun_from_lines_speaks_otherwise(
    client: FlaskClient, tmp_path: Path
) -> None:
    """One line in thirty-three."""
    found, lines = [], [*LINES][::33]
    with db.opened(tmp_path / "demo.sqlite") as connection:
        slugs = [
            builds.create(connection, f"Line {i}", dump(start(line).sized), "Started")
            for i, line in enumerate(lines)
        ]
    for slug in slugs:
        for station in (
            "brief",
            "layout",
            "circuit",
            "cases",
            "cases/failures",
            "route",
            "hoses",
            "hoses/order",
            "hoses/joints",
            "hoses/buy",
            "hoses/job",
            "wiring",
            "wiring/loom",
            "prove",
        ):
            here = f"/builds/{slug}/{station}"
            found += next((faults(h, texts) for h, texts in walked(client, [here], here, 1)), [])
    assert not found, "\n".join(found[:20])


@pytest.mark.parametrize(
    "file",
    [
        "cut-list.csv",
        "buy-list.csv",
        "hose-order.csv",
        "loom.csv",
        "route-points.csv",
        "prove/car.csv",
    ],
)
def test_no_head_of_a_file_speaks_otherwise(client: FlaskClient, file: str) -> None:
    answer = client.get(f"/builds/bittern/{file}")
    assert answer.status_code == 200
    head = answer.text.splitlines()[0].replace("_", " ")
    assert not re.search(r"\bclock\b|\btake up\b|off the roll|\bburn\b|\basked\b|\bsaid\b", head), (
        head
    )
    assert not faults(file, [head, *answer.text.splitlines()])


@pytest.mark.parametrize("path", ["/", "/rules", "/shelf", "/units", "/backup"])
def test_no_page_beside_the_builds_speaks_otherwise(client: FlaskClient, path: str) -> None:
    assert not [x for here, texts in walked(client, [path], path, 1) for x in faults(here, texts)]


def test_no_rule_speaks_otherwise() -> None:
    every = (*RULES, *CASE_RULES, *ROUTE_RULES, *WIRING_RULES)
    assert not [x for r in every for x in faults(r.id, [r.asks, r.look.__doc__ or ""])]


def test_every_term_stands_once_in_the_list_of_symbols_with_its_sentence() -> None:
    listed = [
        line
        for line in (Path(__file__).parents[2] / "docs" / "symbols.md")
        .read_text(encoding="utf-8")
        .splitlines()
        if line.startswith("| ")
    ]
    for t in terms().values():
        mine = [line for line in listed if line.startswith(f"| {t.term} |")]
        assert len(mine) == 1, t.term
        assert mine[0] == f"| {t.term} | {t.symbol} | {t.unit} | {t.sentence} |"
    assert not faults("terms", [x for t in terms().values() for x in (t.term, t.sentence)])


def test_a_term_shows_its_sentence_where_it_is_a_figure(client: FlaskClient) -> None:
    page = (
        client.get("/builds/bittern/circuit").text
        + client.get("/builds/bittern/swaps?part=F2").get_json()["pieces"]["swaps"]
    )
    for key in ("demand", "pump_flow", "headroom", "vapor_margin", "drop", "supports"):
        assert terms()[key].sentence.replace("'", "&#39;") in page, key
