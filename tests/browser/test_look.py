"""What a person sees: no accessibility faults, text that neither overlaps nor clips, enough
contrast in drawings, all under the strict policy.
"""

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from laying import Chooser
from pages import variant
from playwright.sync_api import Page, expect
from running import App, run_in

AXE = (Path(__file__).parent / "vendor/axe.min.js").read_text(encoding="utf-8")
PAGES = {
    "bench": "/",
    "rules": "/rules",
    "brief": "/builds/bittern/brief",
    "circuit": "/builds/bittern/circuit",
    "trying": "/builds/bittern/circuit?part=F2&case=peak&try=reedmace-10g",
    "idle": "/builds/bittern/circuit?part=PR&case=idle",
    "curlew": "/builds/curlew/circuit",
    "hoses": "/builds/bittern/hoses?hose=H3",
    "cases": "/builds/egret/cases",
    "failures": "/builds/egret/cases/failures",
    "run": "/builds/bittern/cases/run?fill=20 L",
    "heat": "/builds/bittern/cases/heat?pick=5 psi",
    "curves": "/builds/bittern/cases/curves",
    "cases tried": "/builds/bittern/cases?part=F2&try=reedmace-10g",
    "layout": "/builds/bittern/layout",
    "dunlin": "/builds/dunlin/circuit?part=C1",
    "bowls": "/builds/dunlin/layout",
    "shelf": "/shelf",
    "backup": "/backup",
    "units": "/units",
    "egret": "/builds/egret/circuit?part=V1",
    "wings": "/builds/egret/layout",
    "plover": "/builds/plover/circuit",
    "size": "/builds/curlew/size",
    "sheet": "/builds/curlew/sheet",
    "route": "/builds/bittern/route?line=H3",
    "route in the air": "/builds/egret/route?part=V1",
    "route trying": "/builds/bittern/route?line=H4&try=0",
    "route turned": "/builds/stonechat/route?view=turn",
    "route on paper": "/builds/egret/route/paper?paper=A3",
    "joints": "/builds/plover/hoses/joints",
    "made to order": "/builds/bittern/hoses/order?rule=overall",
    "hard lines": "/builds/egret/hoses/bends",
    "to buy": "/builds/plover/hoses/buy",
    "job": "/builds/egret/hoses/job",
    "labels": "/builds/bittern/hoses/labels",
    "plate": "/builds/egret/hoses/plate",
    "fits": "/builds/bittern/hoses/fits",
    "tank": "/builds/egret/hoses/tank",
    "wiring": "/builds/bittern/wiring?pump=P2",
    "not wired": "/builds/curlew/wiring",
    "cut-off": "/builds/bittern/wiring/cut-off",
    "supply": "/builds/egret/wiring/supply",
    "sender": "/builds/bittern/wiring/sender",
    "speed": "/builds/stonechat/wiring/speed",
    "loom": "/builds/egret/wiring/loom",
    "prove": "/builds/bittern/prove?part=flow+P2",
    "proven": "/builds/egret/prove?part=match",
    "prove sender": "/builds/egret/prove/sender",
    "prove live": "/builds/bittern/prove/live",
    "prove rig": "/builds/bittern/prove/rig",
    "prove dyno": "/builds/bittern/prove/dyno",
    "prove upkeep": "/builds/egret/prove/upkeep",
    "prove log": "/builds/egret/prove/log",
    "prove replay": "/builds/egret/prove/replay",
    "prove record": "/builds/egret/prove/record",
    "history": "/builds/bittern/history",
    "compare": "/compare?a=1&b=bittern",
}
SAME = (
    "idle",
    "curlew",
    "bowls",
    "wings",
    "dunlin",
    "plover",
    "route trying",
)  # templates that others of the list show too
COLORED = (
    "bench",
    "brief",
    "circuit",
    "cases",
    "layout",
    "shelf",
    "route",
    "hoses",
    "plate",
    "wiring",
    "cut-off",
    "prove",
    "prove live",
    "tank",
    "made to order",
    "joints",
    "history",
    "loom",
)
EVERY_PIECE = (
    "brief",
    "circuit",
    "cases",
    "shelf",
    "route",
    "hoses",
    "wiring",
    "prove live",
    "joints",
)  # of these all that axe looks for
SIZES = {"desk": (1280, 800), "tablet": (820, 1180)}
MEASURE = (Path(__file__).parent / "measure.js").read_text(encoding="utf-8")


@pytest.fixture(scope="session")
def looked_at(tmp_path_factory: pytest.TempPathFactory) -> Iterator[App]:
    """An application that is looked at only: no test changes its builds."""
    yield from run_in(tmp_path_factory.mktemp("looked-at"))


@pytest.fixture(params=SIZES)
def size(request: pytest.FixtureRequest) -> str:
    return str(request.param)


def at(page: Page, size: str) -> Page:
    width, height = SIZES[size]
    page.set_viewport_size({"width": width, "height": height})
    return page


@pytest.mark.parametrize(
    "axed", [EVERY_PIECE, pytest.param(tuple(PAGES), marks=pytest.mark.sweep)], ids=["some", "all"]
)
def test_every_page_fits_and_has_no_accessibility_faults(
    page: Page, looked_at: App, size: str, axed: tuple[str, ...]
) -> None:
    """By day on the desk all that axe looks for, on those pages that hold every piece there is;
    by night on the tablet what hangs on colors and on the room there is. In the sweep on all pages.
    """
    theme = "day" if size == "desk" else "night"
    page.context.add_cookies([{"name": "theme", "value": theme, "url": looked_at.address}])
    for name, path in PAGES.items():
        if axed is EVERY_PIECE and (
            name in SAME or (size == "tablet" and name not in (*EVERY_PIECE, *COLORED))
        ):
            continue
        at(page, size).goto(looked_at.address + path.removeprefix("/"))
        assert page.evaluate("document.documentElement.dataset.theme") == theme
        assert page.evaluate("document.documentElement.scrollWidth") <= SIZES[size][0], name
        assert measure(page, "clipped") == [], name
        if size == "desk":
            assert measure(page, "low") == [], (
                f"{name}: buttons, fields and links of the tools are at least 44 px high, cases 36"
            )
        looked_over = axed if size == "desk" or axed is not EVERY_PIECE else COLORED
        if name not in SAME and name in looked_over:
            assert axe(page, EVERY if size == "desk" else COLOURS) == [], f"{name} by {theme}"


def test_on_a_phone_nothing_is_wider_and_no_text_stands_on_another(
    page: Page, looked_at: App
) -> None:
    """A phone beside the car, 390 by 844."""
    page.set_viewport_size({"width": 390, "height": 844})
    for name, path in PAGES.items():
        if name not in (*COLORED, "to buy", "labels", "sheet"):  # every piece there is
            continue
        page.goto(looked_at.address + path.removeprefix("/"))
        assert page.evaluate("document.documentElement.scrollWidth") <= 390, name
        assert measure(page, "overlaps") == [], name


@pytest.mark.sweep
@pytest.mark.parametrize("theme", ["day", "night"])
@pytest.mark.parametrize("wide", [1280, 820, 390])
def test_no_text_stands_on_another_on_any_page(
    page: Page, looked_at: App, wide: int, theme: str
) -> None:
    page.context.add_cookies([{"name": "theme", "value": theme, "url": looked_at.address}])
    page.set_viewport_size({"width": wide, "height": 844})
    for name, path in PAGES.items():
        page.goto(looked_at.address + path.removeprefix("/"))
        assert page.evaluate("document.documentElement.scrollWidth") <= wide, name
        assert measure(page, "overlaps") == [], name


def measure(page: Page, what: str) -> Any:
    """One of the measurements of measure.js."""
    return page.evaluate(f"({MEASURE}).{what}()")


EVERY, COLOURS = (
    ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"],
    ["color-contrast", "target-size"],
)  # tags; rules that hang on colours and on the room there is
RUN_AXE = """(only) => axe.run(document, {runOnly: only, resultTypes: ['violations']}).then(
    (found) => [found.passes.length, found.violations.map((v) => `${v.id}: ${v.nodes[0].html.slice(0, 120)} ${JSON.stringify(v.nodes[0].any[0])}`)])"""


def axe(page: Page, only: list[str]) -> list[str]:
    page.evaluate(AXE)
    passed, faults = page.evaluate(RUN_AXE, only)
    assert passed
    return list(faults)


def luminance(colour: str) -> float:
    parts = [float(x) / 255 for x in colour.removeprefix("rgb(").removesuffix(")").split(", ")]
    linear = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def contrast(a: str, b: str) -> float:
    low, high = sorted((luminance(a), luminance(b)))
    return (high + 0.05) / (low + 0.05)


STATES = {
    "sagging": [("power_kw", "760 hp"), ("base_kpa", "70 psi")],
    "low pressure": [("base_kpa", "20 psi"), ("boost_kpa", "0 psi")],
}


def test_text_in_drawings_is_legible(page: Page, looked_at: App, size: str) -> None:
    """Inside its drawing, at least 14 px, touching no other text, and at 4.5 : 1 or more on what
    lies under it, by day and by night.
    """
    for name in (
        "circuit",
        "idle",
        "trying",
        "curlew",
        "dunlin",
        "egret",
        "plover",
        "hoses",
        "wiring",
    ):
        at(page, size).goto(looked_at.address + PAGES[name].removeprefix("/"))
        legible(page)


@pytest.mark.parametrize(("size", "state"), [("desk", "sagging"), ("tablet", "low pressure")])
def test_text_in_drawings_is_legible_in_trouble(page: Page, size: str, state: str) -> None:
    at(page, size).goto(PAGES["circuit"])
    for field, text in STATES[state]:
        page.locator(f"#{field}").fill(text)
        with page.expect_response(lambda r: r.request.method == "POST"):
            page.locator(f"#{field}").press("Enter")
        expect(page.locator(f"#{field}")).to_have_value(text)
    for name in (None, "idle", "trying"):
        if name:
            page.goto(PAGES[name])
        legible(page)


OTHERS = [
    ("bittern", "C1-parallel"),
    ("bittern", "C1-dead-end"),
    ("curlew", "C4-single"),
    ("dunlin", "C6-single"),
    ("bittern", "C7-single"),
    ("egret", "A4-single"),
]


def test_text_stays_legible_in_other_layouts(page: Page) -> None:
    choosers: dict[str, Chooser] = {}
    for size, (name, choice) in zip(("desk", "tablet", "desk"), OTHERS[1::2], strict=True):
        slug = variant(page, name) if name == "egret" else name  # Egret is signed
        chooser = choosers.get(slug) or choosers.setdefault(slug, Chooser(page, slug))
        chooser.lay_out(choice)
        at(page, size).goto(f"/builds/{slug}/circuit")
        legible(page)
        chooser.undo()


ZOOMS = (("both", "1"), ("both", "2"), ("both", "4"), ("rear", "1"), ("rear", "3"))


def test_text_in_the_vehicle_is_legible_at_every_zoom(page: Page, looked_at: App) -> None:
    """Labels, letters, numbers and leaders of all three demo routes, from the whole vehicle to the
    largest the page offers, in every view.
    """
    for slug in ("bittern", "egret", "stonechat"):
        for view, zoom in ZOOMS if slug != "stonechat" else ZOOMS[::4]:
            at(page, "desk").goto(f"{looked_at.address}builds/{slug}/route?view={view}&zoom={zoom}")
            legible(page)
    at(page, "tablet").goto(f"{looked_at.address}builds/bittern/route?line=H3")
    legible(page)
    handles = page.evaluate(
        "[...document.querySelectorAll('.handle .hit')].map((h) => h.getBoundingClientRect().width)"
    )
    assert handles
    assert min(handles) >= 43.5


def legible(page: Page) -> None:
    for theme in ("night", "day"):
        page.evaluate(f"document.documentElement.dataset.theme = '{theme}'")
        texts = measure(page, "texts")
        assert len(texts) > 8
        for t in texts:
            assert t["inside"], f"{t['text']} leaves its drawing"
            assert t["size"] >= 14, f"{t['text']} is {t['size']:.1f} px"
            assert contrast(t["fill"], t["ground"]) >= 4.5, (
                f"{t['text']} on {t['ground']} by {theme}"
            )
    for i, a in enumerate(texts):
        for b in texts[:i]:
            apart = (
                a["right"] <= b["left"]
                or b["right"] <= a["left"]
                or a["bottom"] <= b["top"]
                or b["bottom"] <= a["top"]
            )
            assert apart, f"{a['text']} touches {b['text']}"
