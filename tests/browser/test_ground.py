"""A photograph of one's own car under the drawing: scaled by two clicks and a dimension, set on the
ground by a third; what is drawn on it is as long as on the car.
"""

import re
from pathlib import Path

import pytest
from PIL import Image, ImageDraw
from playwright.sync_api import Page, expect

WIDE, HIGH = 1000, 400  # px
MARKS = ((200, 300), (700, 300))  # px, the wheels' middles
GROUND = (450, 380)
WHEELBASE = 2500.0  # mm, so that a pixel is 5 mm


def picture(path: Path) -> Path:
    image = Image.new("RGB", (WIDE, HIGH), "white")
    for x, y in MARKS:
        ImageDraw.Draw(image).ellipse((x - 20, y - 20, x + 20, y + 20), outline="black", width=4)
    image.save(path / "car.png")
    return path / "car.png"


def spot(page: Page, px: tuple[int, int]) -> tuple[float, float]:
    """Where a pixel of the picture lies on the screen."""
    box = page.locator("#view-side .vehicle-picture").bounding_box()
    assert box is not None
    return box["x"] + px[0] * box["width"] / WIDE, box["y"] + px[1] * box["height"] / HIGH


def test_a_photograph_is_scaled_by_two_clicks_and_a_line_drawn_on_it(
    page: Page, tmp_path: Path
) -> None:
    page.emulate_media(reduced_motion="reduce")  # a page that is still moving cannot be measured
    page.set_viewport_size({"width": 1280, "height": 1600})
    page.goto("/builds/curlew/route?line=H3")
    page.locator("#ground-form summary").click()
    page.locator("#ground-file").set_input_files(picture(tmp_path))
    expect(page.locator("#view-side .vehicle-picture")).to_have_count(1)
    page.locator("#ground-side").fill("2.5 m")
    page.locator("#ground-scale-side").click()
    expect(page.locator("#ground-says")).to_contain_text("Click one end")
    for px, next_words in zip(MARKS, ("Now its other end", "on the ground"), strict=True):
        page.mouse.click(*spot(page, px))
        expect(page.locator("#ground-says")).to_contain_text(next_words)
    page.mouse.click(*spot(page, GROUND))
    expect(page.locator("#ground-form")).to_contain_text("scaled")
    shown = float(re.search(r"1 px is ([\d.]+) mm", page.locator("#ground-form").inner_text())[1])  # type: ignore[index]
    assert shown == pytest.approx(WHEELBASE / (MARKS[1][0] - MARKS[0][0]), rel=0.005)
    for k, px in enumerate(MARKS):
        handle = page.locator("#view-side .handle .hit").nth(k)
        box = handle.bounding_box()
        assert box is not None
        page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        page.mouse.down()
        page.mouse.move(*spot(page, px), steps=6)
        with page.expect_response(
            lambda r: r.request.method == "POST" and r.url.endswith("/route")
        ):
            page.mouse.up()
        expect(page.locator("#undo")).to_contain_text(f"H3: corner {k + 1} moved")  # drawn anew
    build = page.request.get("/builds/curlew/build.json").json()
    corners = build["space"]["routes"]["H3"]["corners"]
    assert corners[1][0] - corners[0][0] == pytest.approx(WHEELBASE, rel=0.005)
    assert [c[2] for c in corners[:2]] == pytest.approx(
        [(GROUND[1] - MARKS[0][1]) * 5.0] * 2, abs=12.0
    )  # over the ground
    hose = next(e for e in build["circuit"]["elements"] if e["id"] == "H3")
    assert hose["length"]["source"] in ("route", "typed", "measured")
    page.get_by_role("button", name="Take it off").click()
    expect(page.locator(".vehicle-picture")).to_have_count(0)


def test_what_is_no_picture_is_refused_beside_its_field(page: Page, tmp_path: Path) -> None:
    page.goto("/builds/curlew/route")
    page.locator("#ground-form summary").click()
    (tmp_path / "car.txt").write_text("no picture", encoding="utf-8")
    page.locator("#ground-file").set_input_files(tmp_path / "car.txt")
    expect(page.locator("#trouble")).to_contain_text("A picture is wanted here")


def test_a_zone_is_drawn_on_an_outline_by_two_clicks(page: Page, tmp_path: Path) -> None:
    """A rectangle of 100 by 50 px of the picture, where a pixel is 5 mm."""
    page.emulate_media(reduced_motion="reduce")
    page.set_viewport_size({"width": 1280, "height": 1600})
    page.goto("/builds/curlew/route")
    page.locator("#ground-form summary").click()
    svg = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 1000 400"><rect width="1000" height="400"/></svg>'
    (tmp_path / "car.svg").write_text(svg, encoding="utf-8")
    page.locator("#ground-file").set_input_files(tmp_path / "car.svg")
    expect(page.locator("#view-side .vehicle-picture")).to_have_count(1)
    page.locator("#zones-form summary").click()
    page.locator("#drawn-usual").select_option("battery")
    page.locator("#drawn-name").fill("second battery")
    page.locator("#drawn-go").click()
    expect(page.locator("#zone-says")).to_contain_text("one corner")
    page.mouse.click(*spot(page, (300, 200)))
    expect(page.locator("#zone-says")).to_contain_text("opposite")
    with page.expect_response(lambda r: r.request.method == "POST" and r.url.endswith("/route")):
        page.mouse.click(*spot(page, (400, 250)))
    expect(page.locator("#zone-says")).to_contain_text("second battery: seen from one side only")
    build = page.request.get("/builds/curlew/build.json").json()
    zone = next(z for z in build["space"]["zones"] if z["name"] == "second battery")
    k = (
        build["space"]["grounds"]["side"]["mm_per_px"]
        * build["space"]["grounds"]["side"]["wide_px"]
        / WIDE
    )
    assert [zone["high"][i] - zone["low"][i] for i in (0, 2)] == pytest.approx(
        [100 * k, 50 * k], rel=0.05
    )
    assert zone["kind"] == "battery"
