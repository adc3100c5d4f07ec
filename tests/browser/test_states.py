"""Pages in the states that a demo does not show: a build of sixty parts with long names, forty
hoses and twenty-four cases; a build of one word; a refused field on every page that has one.
"""

import json
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Page
from running import App, run_in

from tall_heron.core.document.build import Build, dump, load
from tall_heron.core.document.own_case import OwnCase
from tall_heron.core.editing.topology import insert, split

MEASURE = (Path(__file__).parent / "measure.js").read_text(encoding="utf-8")
WIDTHS = {1280: 800, 820: 1180, 640: 400, 390: 844}  # 640: a desk at 200 %
LONG = "Great northern diver, the one with the second cell over the axle"
PAGES = (
    "brief", "layout", "circuit", "circuit?part=F2", "cases", "cases/failures", "cases/run", "cases/heat", "cases/curves", "route", "route?view=rear",
    "route/paper", "hoses", "hoses/joints", "hoses/order", "hoses/bends", "hoses/buy", "hoses/job", "hoses/labels", "hoses/plate",
    "hoses/fits", "hoses/tank", "wiring", "wiring/cut-off", "wiring/supply", "wiring/sender", "wiring/speed", "wiring/loom", "prove",
    "prove/replay", "prove/live", "prove/sender", "prove/rig", "prove/dyno", "prove/upkeep", "prove/log", "prove/record", "sheet", "size", "history",
)  # fmt: skip


def crowded(build: Build) -> Build:
    """Sixty parts, twenty-four cases, names as long as they may be."""
    while len(build.circuit.elements) < 60:
        hose = max(
            (e for e in build.circuit.elements if e.kind == "hose" and len(e.ports) == 2 and e.length),
            key=lambda e: e.length.mm if e.length else 0,
        )  # fmt: skip
        build = (
            split(build, hose.id)[0]
            if len(build.circuit.of_kind("hose")) < 40
            else insert(build, hose.id, "union-8")[0]
        )
    data = json.loads(dump(build))
    data["name"] = LONG
    for n, element in enumerate(data["circuit"]["elements"]):
        element["title"] = f"part number {n} of the crowd, behind the left rear wheel arch"
    data["cases"] = [
        OwnCase(name=f"long climb number {n} on a hot day, full", altitude_m=100.0 * n).model_dump()
        for n in range(24)
    ]
    return load(json.dumps(data))


@pytest.fixture(scope="module")
def states(tmp_path_factory: pytest.TempPathFactory) -> Iterator[App]:
    yield from run_in(tmp_path_factory.mktemp("states"))


def begun(page: Page, app: App, name: str, file: bytes | None = None) -> str:
    """The slug of a build begun from a line, or opened from a file."""
    page.goto(app.address)
    if file is not None:
        page.locator("#new-file").set_input_files(
            {"name": "x.json", "mimeType": "application/json", "buffer": file}
        )
    else:
        page.locator("#new-name").fill(name)
    page.locator("#new-name").evaluate("e => e.form.requestSubmit()")
    page.wait_for_url("**/brief")
    return page.url.split("/")[-2]


def faults(page: Page, wide: int) -> list[str]:
    """What overlaps or is clipped, and how much wider the page is than the screen. A field scrolls
    what is longer than itself.
    """
    over = page.evaluate("document.documentElement.scrollWidth") - wide
    return [
        *page.evaluate(f"({MEASURE}).overlaps()"),
        *(x for x in page.evaluate(f"({MEASURE}).clipped()") if not x.startswith("INPUT")),
        *([f"{over} px too wide"] if over > 0 else []),
    ]


@pytest.mark.sweep
@pytest.mark.parametrize("wide", WIDTHS)
@pytest.mark.parametrize("state", ["crowded", "of one word", "refused"])
def test_no_state_of_a_page_overlaps_clips_or_scrolls_sideways(
    page: Page, states: App, state: str, wide: int
) -> None:
    page.set_viewport_size({"width": wide, "height": WIDTHS[wide]})
    page.set_default_timeout(120_000)  # sixty parts on paper, each finding with its fix
    demo = page.request.get(f"{states.address}builds/bittern/build.json").text()
    slug = {
        "crowded": lambda: begun(page, states, "", dump(crowded(load(demo))).encode()),
        "of one word": lambda: begun(page, states, "Godwit"),
        "refused": lambda: "bittern",
    }[state]()
    wrong = []
    for name in PAGES:
        answer = page.goto(f"{states.address}builds/{slug}/{name}")
        assert answer
        assert answer.ok, name
        if state == "refused":
            refuse(page)
        wrong += [f"{name}: {fault}" for fault in faults(page, wide)]
    assert not wrong, "\n".join(wrong)


def refuse(page: Page) -> None:
    """Type what cannot be read into the first field of the page, and send it."""
    field = page.locator("main input:not([type]):visible, main input[type=text]:visible").first
    if field.count():
        field.fill("eleventy furlongs per fortnight, or so")
        field.press("Enter")
        page.wait_for_load_state("networkidle")
