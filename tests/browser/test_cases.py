"""Station 4 by hand: from a figure to its circuit, a swap in all cases, a case of one's own, a run
played back, a failure printed, a curve zoomed.
"""

import io
import re
from pathlib import Path

import pypdf
from playwright.sync_api import Page, expect


def test_from_a_case_to_its_circuit_and_a_swap_tried_in_all(page: Page) -> None:
    page.goto("/builds/bittern/circuit?part=F2&try=reedmace-10g")
    page.locator("#try-all").click()
    expect(page.locator(".trial")).to_contain_text("in all cases")
    expect(page.locator(".matrix .changed").first).to_be_visible()
    page.locator("#fit-trial").click()
    expect(page).to_have_url(re.compile("/cases$"))
    expect(page.locator("#undo")).to_contain_text("Reedmace")
    page.get_by_role("link", name=re.compile("^Reference hose off, Rail")).press("Enter")
    expect(page.locator("#case")).to_contain_text("Shown for Reference hose off")
    page.keyboard.press("4")
    page.locator("#case-name").fill("Towing")
    page.locator("#case-power").fill("900 %")
    page.locator("#case-save").press("Enter")
    expect(page.locator("#case-power-says .wrong")).to_contain_text("0 and 200 %")
    page.locator("#case-power").fill("60 %")
    page.locator("#case-power").press("Enter")
    expect(page.get_by_role("rowheader", name="Towing")).to_be_visible()
    page.reload()
    expect(page.get_by_role("rowheader", name="Towing")).to_be_visible()
    page.get_by_role("button", name="Undo: Case added: Towing").click()
    expect(page.locator("#undo")).to_contain_text("Reedmace")
    page.reload()
    expect(page.get_by_role("rowheader", name="Towing")).to_have_count(0)


def test_a_logged_lap_is_brought_in_and_scrubbed_by_keyboard(page: Page, tmp_path: Path) -> None:
    """Semicolons and decimal commas, m/s2, rows out of order; brakes in the middle of it."""
    rows = [
        f"{i / 10:.1f};{0.2 * 9.80665 if i >= 40 or i < 20 else -0.95 * 9.80665:.3f};{0.0:.2f}"
        for i in range(120)
    ]
    file = tmp_path / "my lap.csv"
    file.write_text(
        "time (s);ax (m/s2);ay (m/s2)\n" + "\n".join([*rows[60:], *rows[:60]]).replace(".", ","),
        encoding="utf-8",
    )
    page.goto("/builds/bittern/cases/run")
    page.locator("#run-save").press("Enter")
    expect(page.locator("[data-wrong=name]")).to_contain_text("1 to 60 letters")
    page.locator("#run-file").set_input_files(file)
    expect(page.locator("#run-name")).to_have_value("my lap")
    page.locator("#run-save").press("Enter")
    expect(page.get_by_role("combobox", name="Run")).to_have_value(re.compile("^own-"))
    page.get_by_role("textbox", name="Starts with").fill("8 gal")
    page.get_by_role("textbox", name="Starts with").press("Enter")
    expect(page.locator(".run-form .wrong")).to_contain_text("US or imperial")
    page.get_by_role("textbox", name="Starts with").fill("18 L")
    page.get_by_role("textbox", name="Starts with").press("Enter")
    expect(page.locator(".worst-says")).to_contain_text("Started with 18.0 L")
    slider = page.locator("#slosh-at")
    page.locator("#slosh-next").press("Enter")
    expect(page.locator("#slosh-says")).to_contain_text("outlet dry")
    dry = float(re.match(r"([\d.]+) s", page.locator("#slosh-says").inner_text())[1])  # type: ignore[index]
    assert 2.0 <= dry < 4.0
    expect(page.locator(".vessel .outlet.is-dry")).to_have_count(2)
    fuel = page.locator(".vessel .fuel").first.get_attribute("points")
    for _ in range(5):
        slider.press("ArrowRight")
    expect(page.locator("#slosh-says")).to_contain_text(f"{dry + 0.5:.1f} s:")
    slider.press("Home")
    expect(page.locator("#slosh-says")).to_contain_text("0.0 s: outlet covered")
    assert page.locator(".vessel .fuel").first.get_attribute("points") != fuel
    assert float(page.locator("#slosh-now").get_attribute("x1") or 0) == 64.0
    page.locator("#slosh-play").press("Enter")
    expect(page.locator("#slosh-says")).not_to_contain_text("0.0 s: outlet covered")
    page.locator("#slosh-play").press("Enter")
    page.locator("#in-ahead").fill("300 mm")
    page.locator("#inside-save").press("Enter")
    expect(page.locator("#undo")).to_contain_text("Inside S1 changed")
    expect(page.locator("#in-ahead")).to_have_value("300 mm")


def test_the_tank_is_drawn_to_scale_and_holds_what_it_says(page: Page) -> None:
    """760 x 440 x 212 mm: side and rear views share one scale with the bar under them, and the
    drawn fuel's area goes with its volume.
    """
    page.goto("/builds/bittern/cases/run?fill=35 L")
    page.locator("#slosh-at").press("Home")
    boxes = page.locator(".vessel .room").evaluate_all(
        "all => all.map(p => p.getBBox()).map(b => [b.width, b.height])"
    )
    side, rear = sum(w for w, _ in boxes[:-1]), boxes[-1][0]
    bar = page.locator(".scale-bar path").evaluate("p => p.getBBox().width")
    label = float((page.locator(".scale-bar text").text_content() or "").split()[0])
    scale = bar / label
    assert abs(side / scale - 760) < 2
    assert abs(rear / scale - 440) < 2
    assert abs(boxes[0][1] / scale - 212) < 2
    area = page.locator(".vessel .fuel").evaluate_all(
        """all => all.slice(0, -1).map(p => p.getAttribute('points').trim().split(/\\s+/).map(q => q.split(',').map(Number)))
        .map(q => Math.abs(q.reduce((s, [x, y], i) => s + x * q[(i + 1) % q.length][1] - q[(i + 1) % q.length][0] * y, 0) / 2)).reduce((a, b) => a + b, 0)"""
    )
    assert abs(area / scale**2 / (760 * 212) - 0.5) < 0.02


def test_a_failure_is_drawn_and_printed(page: Page) -> None:
    page.goto("/builds/egret/cases")
    page.get_by_role("link", name="Failures").press("Enter")
    page.get_by_role("link", name="V1 stands at right").press("Enter")
    expect(page.locator(".says-what")).to_contain_text(
        "is out of reach. It shows on the level in S1"
    )
    expect(page.locator(".part.dead")).not_to_have_count(0)
    text = "".join(p.extract_text() for p in pypdf.PdfReader(io.BytesIO(page.pdf())).pages)
    assert "V1 stands at right" in text
    assert "What each failure leaves" in text
    page.get_by_role("link", name="Open it on the circuit").press("Enter")
    expect(page.locator("#case")).to_contain_text("Shown for V1 stands at right")


def test_a_curve_is_drawn_zoomed_and_read(page: Page) -> None:
    page.goto("/builds/bittern/cases/curves")
    chart = page.locator("#curve-rail .u-over")
    expect(chart).to_be_visible()
    chart.scroll_into_view_if_needed()
    box = chart.bounding_box()
    assert box
    y = box["y"] + box["height"] / 2
    page.mouse.move(box["x"] + 0.5 * box["width"], y)
    expect(page.locator("#curve-rail .u-legend .u-value").first).to_contain_text(re.compile(r"\d"))
    before = page.locator("#curve-rail .u-legend .u-value").first.inner_text()
    page.mouse.down()
    page.mouse.move(box["x"] + 0.7 * box["width"], y, steps=4)
    page.mouse.up()
    page.mouse.move(box["x"] + 0.5 * box["width"], y)
    expect(page.locator("#curve-rail .u-legend .u-value").first).not_to_have_text(before)
