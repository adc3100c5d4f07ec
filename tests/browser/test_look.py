"""What a person sees: no accessibility faults, text that neither overlaps nor clips, enough contrast in drawings, all under the strict policy."""

from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import BrowserContext, Page, expect
from running import App

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
    "layout": "/builds/bittern/layout",
    "dunlin": "/builds/dunlin/circuit?part=C1",
    "bowls": "/builds/dunlin/layout",
    "shelf": "/shelf",
    "units": "/units",
    "egret": "/builds/egret/circuit?part=V1",
    "wings": "/builds/egret/layout",
    "plover": "/builds/plover/circuit",
    "size": "/builds/curlew/size",
    "sheet": "/builds/curlew/sheet",
    "history": "/builds/bittern/history",
    "compare": "/compare?a=1&b=bittern",
}
SAME = ("idle", "curlew", "bowls", "wings", "dunlin", "plover")  # templates that others of the list show too
SIZES = {"desk": (1280, 800), "tablet": (820, 1180)}
MEASURE = (Path(__file__).parent / "measure.js").read_text(encoding="utf-8")


@pytest.fixture(params=["day", "night"])
def theme(request: pytest.FixtureRequest, context: BrowserContext, application: App) -> str:
    context.add_cookies([{"name": "theme", "value": request.param, "url": application.address}])
    return str(request.param)


def test_no_accessibility_faults(page: Page, theme: str) -> None:
    """By day on the desk, by night on the tablet: what axe sees hangs on either, never on both."""
    width, height = SIZES["desk" if theme == "day" else "tablet"]
    page.set_viewport_size({"width": width, "height": height})
    for name, path in PAGES.items():
        if name in SAME:
            continue
        page.goto(path)
        assert page.evaluate("document.documentElement.dataset.theme") == theme
        faults = axe(page)
        assert faults == [], f"{name} by {theme}"


def measure(page: Page, what: str) -> Any:
    """One of the measurements of measure.js."""
    return page.evaluate(f"({MEASURE}).{what}()")


def axe(page: Page) -> list[str]:
    page.evaluate(AXE)
    result: dict[str, Any] = page.evaluate("axe.run(document, {runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa']})")
    assert result["passes"]
    return [f"{v['id']}: {v['nodes'][0]['html'][:120]} {v['nodes'][0]['any'][:1]}" for v in result["violations"]]


def luminance(colour: str) -> float:
    parts = [float(x) / 255 for x in colour.removeprefix("rgb(").removesuffix(")").split(", ")]
    linear = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def contrast(a: str, b: str) -> float:
    low, high = sorted((luminance(a), luminance(b)))
    return (high + 0.05) / (low + 0.05)


STATES = {
    "as laid out": [],
    "sagging": [("power_kw", "760 hp"), ("base_kpa", "70 psi")],
    "low pressure": [("base_kpa", "20 psi"), ("boost_kpa", "0 psi")],
}


@pytest.mark.parametrize("size", SIZES)
@pytest.mark.parametrize("state", STATES)
def test_text_in_drawings_is_legible(page: Page, theme: str, size: str, state: str) -> None:
    """Inside its drawing, at least 14 px, touching no other text, and at 4.5 : 1 or more on what lies under it."""
    width, height = SIZES[size]
    page.set_viewport_size({"width": width, "height": height})
    page.goto(PAGES["circuit"])
    for field, text in STATES[state]:
        page.locator(f"#{field}").fill(text)
        with page.expect_response(lambda r: r.request.method == "POST"):
            page.locator(f"#{field}").press("Enter")
        expect(page.locator(f"#{field}")).to_have_value(text)
    paths = (None, PAGES["idle"], PAGES["trying"], PAGES["curlew"], PAGES["dunlin"], PAGES["egret"], PAGES["plover"], PAGES["hoses"])
    for path in paths if state == "as laid out" else paths[:3]:
        if path:
            page.goto(path)
        legible(page)


OTHERS = [
    ("bittern", "C1-parallel"),
    ("bittern", "C1-dead-end"),
    ("curlew", "C4-single"),
    ("dunlin", "C6-single"),
    ("bittern", "C7-single"),
    ("egret", "A4-single"),
]


@pytest.mark.parametrize(("slug", "choice", "size"), [(*x, "desk") for x in OTHERS] + [(*x, "tablet") for x in OTHERS[::3]])
def test_text_stays_legible_in_other_layouts(page: Page, slug: str, choice: str, size: str) -> None:
    width, height = SIZES[size]
    page.set_viewport_size({"width": width, "height": height})
    page.goto(f"/builds/{slug}/layout")
    page.locator(f"#choose-{choice}").click()
    expect(page.locator(f"#choice-{choice}")).to_have_class("fitted")
    page.goto(f"/builds/{slug}/circuit")
    legible(page)


def legible(page: Page) -> None:
    texts = measure(page, "texts")
    assert len(texts) > 8
    for t in texts:
        assert t["inside"], f"{t['text']} leaves its drawing"
        assert t["size"] >= 14, f"{t['text']} is {t['size']:.1f} px"
        assert contrast(t["fill"], t["ground"]) >= 4.5, f"{t['text']} on {t['ground']}"
    for i, a in enumerate(texts):
        for b in texts[:i]:
            apart = a["right"] <= b["left"] or b["right"] <= a["left"] or a["bottom"] <= b["top"] or b["bottom"] <= a["top"]
            assert apart, f"{a['text']} touches {b['text']}"


@pytest.mark.parametrize("size", SIZES)
def test_nothing_clips_or_scrolls_sideways(page: Page, context: BrowserContext, application: App, size: str) -> None:
    width, height = SIZES[size]
    page.set_viewport_size({"width": width, "height": height})
    for name, path in PAGES.items():
        page.goto(path)
        assert page.evaluate("document.documentElement.scrollWidth") <= width, name
        assert measure(page, "clipped") == [], name


def test_targets_are_large_enough(page: Page) -> None:
    """Buttons, fields and links of the tools are at least 44 px high, cases 36."""
    for path in PAGES.values():
        page.goto(path)
        assert measure(page, "low") == []
