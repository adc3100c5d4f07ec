"""A builder at the proving: from a test to sign-off and paper by keyboard, a live run with a fault
switched on, a foreign logger's file whose units are asked once.
"""

import io
from pathlib import Path

import pypdf
from pages import saved
from playwright.sync_api import Page, expect

from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.prove.car import Noise, drive_text
from tall_heron.core.prove.faults import Fault
from tall_heron.core.prove.log_head import lines_of


def tab_to(page: Page, element: str) -> None:
    """Press Tab until an element has the focus."""
    for _ in range(160):
        if page.evaluate("document.activeElement.id") == element:
            return
        page.keyboard.press("Tab")
    raise AssertionError(f"{element} was not reached")


def test_from_a_test_to_sign_off_and_paper_by_keyboard(page: Page) -> None:
    page.goto("/builds/bittern/brief")
    page.keyboard.press("8")
    expect(page.locator("h1")).to_have_text("Bittern")
    expect(page.locator("#tests-in")).to_have_text("9 of 21")
    expect(page.locator("#prove-card h2")).to_contain_text(
        "T7 All pumps together"
    )  # the next that has to be run
    tab_to(page, "v-value")
    page.keyboard.type("8.6 furlongs")
    with saved(page, "/prove/act"):
        page.keyboard.press("Enter")
    expect(page.locator('#prove-card [data-wrong="value"]')).to_contain_text(
        "is not a unit known here"
    )
    expect(page.locator("#v-value")).to_have_value("8.6 furlongs")
    expect(page.locator("#v-value")).to_be_focused()
    page.keyboard.press("Control+a")
    page.keyboard.type("2 gal in 54 s")
    with saved(page, "/prove/act"):
        page.keyboard.press("Enter")
    expect(page.locator("#tests-in")).to_have_text("10 of 21")
    expect(page.locator("#show-why")).to_contain_text("7.571 L ÷ 54.0 s × 3,600 = 504.7 L/h")
    expect(page.locator("#causes")).to_contain_text("P2 is worn")
    tab_to(page, "run-next")
    page.keyboard.press("Enter")
    expect(page.locator("#prove-card h2")).to_contain_text("T9 Reference by a hand pump")
    summary = page.locator(".sign-off summary")
    for _ in range(160):
        if summary.evaluate("x => x === document.activeElement"):
            break
        page.keyboard.press("Tab")
    page.keyboard.press("Enter")
    tab_to(page, "v-name")
    page.keyboard.type("M. Arden")
    with saved(page, "/prove/act"):
        page.keyboard.press("Enter")
    expect(page.locator('[data-wrong="although"]')).to_contain_text("are still open")
    page.keyboard.type("Off to the dyno, P2 under watch")
    reasons = page.locator('.sign-off [name^="reason "]').count()
    assert reasons
    for _ in range(
        reasons
    ):  # each Stop and Check of all stations asks for its reason, the first that has none is focused
        with saved(page, "/prove/act"):
            page.keyboard.press("Enter")
        expect(page.locator('.sign-off [name^="reason "]:focus')).to_have_count(1)
        page.keyboard.type("known, mended after the dyno")
    with saved(page, "/prove/act"):
        page.keyboard.press("Enter")
    expect(page.locator(".signature b")).to_have_text("M. Arden")
    page.locator("#main").evaluate("x => { x.tabIndex = -1; x.focus(); }")
    page.keyboard.press("p")
    expect(page.locator("h1")).to_have_text("Bittern: record of its tests")
    text = " ".join(
        p.extract_text() for p in pypdf.PdfReader(io.BytesIO(page.pdf(format="A4"))).pages
    )
    for part in ("M. Arden", "Although: Off to the dyno", "505 L/h", "T7"):
        assert part in text
    page.goto("/builds/bittern/brief")
    page.locator("#power_kw").fill("700 hp")
    page.locator("#power_kw").press("Enter")
    expect(page.locator("[data-field=power_kw]")).to_contain_text("stays as it is")


def test_a_live_run_with_a_fault_is_diagnosed(page: Page) -> None:
    page.goto("/builds/bittern/prove/live")
    page.locator("#l-fault").select_option(label="the reference of PR is off or leaks")
    page.locator("#l-speed").select_option("40")
    page.locator("#live-start").click()
    expect(page.locator("[data-live-words]")).to_contain_text(
        "Likely: the reference of PR is off or leaks", timeout=60000
    )
    expect(page.locator(".linked canvas").first).to_be_visible()
    expect(page.locator("#live-keep")).to_be_visible(timeout=60000)
    page.locator("#live-keep").click()
    expect(page.locator(".worst-says")).to_contain_text(
        "Likely: the reference of PR is off or leaks", timeout=60000
    )
    expect(page.locator(".linked h3").first).to_have_text("Rail, psi")
    page.locator("#keep-run").click()
    expect(page.locator("#replay-box")).to_contain_text("kept in the log")
    page.goto("/builds/bittern/prove/replay")
    expect(page.locator(".plain-list")).to_contain_text(
        "likely the reference of PR is off or leaks"
    )


def test_a_foreign_file_is_asked_about_once_and_replayed_with_a_stop(
    page: Page, tmp_path: Path
) -> None:
    rows = list(
        lines_of(drive_text(demo_builds(wired=True)["bittern"], Fault("none"), 12, Noise()))
    )
    order = (3, 0, 2, 1, 4, 5)  # columns in another order, semicolons, decimal commas, bare headers
    foreign = ["Kraftstoffdruck;Zeit;MAP;Drehzahl;Bordspannung;IDC;Widget"]
    for line in rows[1:]:
        cells = line.strip().split(",")
        foreign.append((";".join(cells[i] for i in order) + ";17.5").replace(".", ","))
    file = tmp_path / "foreign.csv"
    file.write_text("\n".join(foreign), encoding="utf-8")
    page.goto("/builds/bittern/prove/replay")
    page.locator("#log-file").set_input_files(file)
    asked = page.locator(".ask-columns tr.asks")
    expect(asked).to_have_count(2)
    expect(page.get_by_label("Kraftstoffdruck holds")).to_be_focused()
    page.get_by_label("Kraftstoffdruck in").select_option("kpa")
    page.get_by_label("MAP counts").select_option("absolute")
    page.locator("#columns-ok").click()
    expect(page.locator(".worst-says")).to_contain_text(
        "Rail and model agree: nothing found", timeout=60000
    )
    expect(page.locator("#replay-box")).to_contain_text("What it cannot tell")
    expect(page.locator("#replay-box")).to_contain_text(
        "Not read: “Widget” (left out, as you said)"
    )
    page.locator("#say-columns").click()
    page.get_by_label("Widget holds").select_option("fuel_temperature")
    page.locator("#columns-ok").click()
    expect(page.locator("#replay-box")).to_contain_text(
        "“Widget” as fuel temperature", timeout=60000
    )
    canvas = page.locator(".linked .u-over").first
    box = canvas.bounding_box()
    assert box is not None
    with page.expect_response(lambda r: "replay.json" in r.url and "from=" in r.url):
        page.mouse.move(box["x"] + 0.3 * box["width"], box["y"] + 20)
        page.mouse.down()
        page.mouse.move(box["x"] + 0.5 * box["width"], box["y"] + 20, steps=5)
        page.mouse.up()
    page.goto("/builds/bittern/prove/replay")
    page.locator("#log-file").set_input_files(file)  # the second time nothing is asked
    expect(page.locator(".worst-says")).to_contain_text("nothing found", timeout=60000)
    page.goto("/builds/bittern/prove/replay")
    wrong = tmp_path / "wrong.csv"
    wrong.write_text(
        "time;Kraftstoffdruck;Drehzahl\n0;4;1\n1;x;2\n"
        + "\n".join(f"{i};4;900" for i in range(2, 30)),
        encoding="utf-8",
    )
    page.locator("#log-file").set_input_files(wrong)
    page.get_by_label("Kraftstoffdruck in").select_option("bar")
    page.locator("#columns-ok").click()
    expect(page.locator('[data-wrong="log"]')).to_contain_text("Line 3, column 2: “x”")
