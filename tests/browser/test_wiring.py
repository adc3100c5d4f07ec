"""A builder at the wiring: pumps wired in a few acts, the rail falling with a thinner wire,
switches thrown by keyboard, the page's machine against the core's, the loom sheet on paper.
"""

import io
import json
import random
from typing import Any

import pypdf
import pytest
from pages import figure, variant
from pages import saved as answered
from playwright.sync_api import Page, expect

from tall_heron.core.document.wiring import CutOff
from tall_heron.core.electrics.cut_off import CutOffState, Inputs, step


def saved(page: Page) -> Any:
    return answered(page, "/wiring/act")


def test_pumps_are_wired_and_a_thinner_wire_lowers_the_rail(page: Page) -> None:
    page.goto("/builds/bittern/wiring")
    with saved(page):
        page.locator("#unwire").click()
    expect(page.locator("#drawing")).to_contain_text("0.5 V is taken as lost")
    with saved(page):
        page.locator("#wire").click()
    expect(page.locator("#pump-P1")).to_be_visible()
    volts = [figure(page.locator("#volts").text_content())]
    delivered = [figure(page.locator("[data-figure=deliver] .big").text_content())]
    for size, long in (("2.5 mm²", ""), ("1 mm²", "9 m")):
        page.locator("#w-feed_length").fill(long)
        with saved(page):
            page.locator("#w-feed_size").select_option(size)
        expect(page.locator("#drawing")).to_contain_text(f"P1-1 {size}")
        volts.append(figure(page.locator("#volts").text_content()))
        delivered.append(figure(page.locator("[data-figure=deliver] .big").text_content()))
    assert volts[0] > volts[1] > volts[2]
    assert delivered[0] > delivered[1] > delivered[2]
    expect(page.locator("#findings")).to_contain_text("loses")
    page.locator("#volts-why summary").click()
    expect(page.locator("#volts-why")).to_contain_text("solved together with the fuel")
    page.locator("#w-fuse").fill("lots")
    with saved(page):
        page.locator("#branch-save").click()
    expect(page.locator('#wiring-card [data-wrong="fuse"]').first).not_to_be_empty()
    expect(page.locator("#w-fuse")).to_have_value("lots")
    page.locator("#pump-P2").focus()
    page.keyboard.press("Enter")
    expect(page.locator("#wiring-card h2")).to_contain_text("P2")


def test_switches_are_thrown_by_keyboard(page: Page) -> None:
    page.goto("/builds/bittern/wiring")
    with saved(page):
        page.locator("#wire").click()
    expect(page.locator("#pump-P1")).to_be_visible()
    page.goto("/builds/bittern/wiring/cut-off")
    page.locator("#hold").click()
    state = page.locator("#pump-state")

    def throw(name: str) -> None:
        page.locator(f"#lever-{name}").focus()
        page.keyboard.press("Space")

    throw("ignition")
    expect(state).to_contain_text("prime")
    for _ in range(3):
        page.locator("#tick-on").click()
    expect(state).to_contain_text("Pumps off")
    throw("cranking")
    expect(state).to_contain_text("the starter turns")
    throw("turning")
    expect(page.locator("#lever-cranking")).to_have_attribute("aria-checked", "false")
    expect(state).to_contain_text("the control unit says so")
    throw("turning")
    page.locator("#tick-on").click()
    page.locator("#tick-on").click()
    expect(state).to_contain_text("Pumps off")
    expect(page.locator("#record")).to_contain_text("pumps stand: not the control unit")
    throw("turning")
    throw("crash")
    expect(state).to_contain_text("inertia switch")
    page.locator("#fault").select_option("relay welded")
    expect(state).to_contain_text("the supply is broken")
    page.locator("#reset").click()
    expect(state).to_contain_text("Pumps run")


@pytest.mark.parametrize(
    "seed", [1, *(pytest.param(n, marks=pytest.mark.sweep) for n in range(2, 8))]
)
def test_the_page_and_the_core_give_the_same_trace(page: Page, seed: int) -> None:
    """Random machines, random switches and faults, 400 ticks each: mode, pumps and reason of both,
    tick for tick.
    """
    rnd = random.Random(seed)
    scripts = []
    names = [x for x in vars(Inputs()) if x != "reset"]
    for _ in range(16):
        cut = CutOff.model_validate(
            {
                x: rnd.random() < 0.6
                for x in (
                    "automatic",
                    "crank",
                    "oil_switch",
                    "start_bypass",
                    "control_unit",
                    "inertia",
                    "roll_over",
                    "level",
                )
            }
            | {
                "prime_s": rnd.choice([0, 0.3, 2]),
                "oil_falls_s": rnd.choice([0.5, 3]),
                "control_unit_s": rnd.choice([0.4, 1]),
            }
            | {
                "breaks": rnd.choice(["coil", "supply"]),
                "kill": rnd.choice(["none", "battery", "battery and alternator"]),
            }
        )
        fault = rnd.choice(
            [
                "",
                "",
                "relay welded",
                "relay dead",
                "coil wire off",
                "87a used",
                "ignition stuck on",
                "oil switch stuck",
                "control unit stuck",
                "inertia switch stuck",
                "roll-over switch stuck",
            ]
        )
        x, ticks = dict.fromkeys(names, False), []
        for _ in range(400):
            if rnd.random() < 0.2:
                name = rnd.choice(names)
                x = x | {name: not x[name]}
            ticks.append(x | {"reset": rnd.random() < 0.03})
        scripts.append((cut, fault, ticks))
    page.goto("/builds/bittern/wiring")
    theirs = page.evaluate(
        """async (scripts) => {
          const { begun, step } = await import(document.querySelector('link[href$="cut-off.js"]').href);
          return scripts.map(([cut, fault, ticks]) => { let s = begun(); return ticks.map((x) => { s = step(cut, s, x, fault); return [s.mode, s.pumps, s.why, s.latched]; }); });
        }""",
        [[json.loads(c.model_dump_json()), f, t] for c, f, t in scripts],
    )
    for (cut, fault, ticks), rows in zip(scripts, theirs, strict=True):
        state = CutOffState()
        for x, row in zip(ticks, rows, strict=True):
            state = step(cut, state, Inputs(**x), fault)  # type: ignore[arg-type]
            assert [state.mode, state.pumps, state.why, state.latched] == row


def test_the_loom_sheet_is_printed(page: Page) -> None:
    page.goto("/builds/egret/wiring/loom")  # signed, and wired
    text = "".join(
        p.extract_text() for p in pypdf.PdfReader(io.BytesIO(page.pdf(format="A4"))).pages
    )
    rows = page.locator("[data-wire]").evaluate_all("all => all.map((r) => r.dataset.wire)")
    assert sorted(rows) == ["B1-1", "B2-1", "P1-0", "P1-1", "P1-2", "P2-0", "P2-1", "P2-2"]
    assert all(r in text for r in rows)
    with page.expect_download() as got:
        page.locator("#loom-csv").click()
    assert len(got.value.path().read_text(encoding="utf-8").splitlines()) == 9


TEXTS = """() => [...document.querySelectorAll('.schematic text')].map((t) => { const b = t.getBoundingClientRect(); return [t.textContent, b.left, b.top, b.right, b.bottom]; })"""


@pytest.mark.parametrize("size", [(1280, 800), (820, 1180)])
def test_no_text_of_the_schematic_touches_another(page: Page, size: tuple[int, int]) -> None:
    """On every demo that has pumps, with each pump's own relay and with one for all, by any length
    of colour.
    """
    page.set_viewport_size({"width": size[0], "height": size[1]})
    for slug in (
        ("bittern", "curlew", "dunlin", "egret", "stonechat")
        if size[0] > 1000
        else ("bittern", "egret")
    ):
        page.goto(f"/builds/{variant(page, slug) if slug == 'egret' else slug}/wiring")
        with saved(page):
            page.locator("#wire").click()
        expect(page.locator("#pump-P1")).to_be_visible()
        for change in ("", "shared"):
            if change:
                page.locator("#w-relay").fill("R1")
                page.locator("#w-feed_colour").fill("violet with yellow")
                with saved(page):
                    page.locator("#branch-save").click()
                expect(page.locator("#drawing")).to_contain_text("violet")
            texts = page.evaluate(TEXTS)
            assert len(texts) > 8
            for i, (a, *one) in enumerate(texts):
                for b, *other in texts[:i]:
                    assert (
                        one[2] <= other[0] + 0.5
                        or other[2] <= one[0] + 0.5
                        or one[3] <= other[1] + 2
                        or other[3] <= one[1] + 2
                    ), f"{slug} {change}: {a} touches {b}"
