"""A builder at the page of the route: dragging and nudging until a finding clears, a bulkhead at
the firewall, two suggested ways, points from a tape, parts and clamps, the view that turns, paper.
"""

import re
from itertools import pairwise

import pytest
from pages import variant
from playwright.sync_api import Page, expect

FINDINGS = "#findings h3"


def center(page: Page, selector: str) -> tuple[float, float]:
    page.locator(selector).first.scroll_into_view_if_needed()
    box = page.locator(selector).first.bounding_box()
    assert box is not None
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def test_a_feed_is_dragged_away_from_the_exhaust_and_the_finding_clears_before_letting_go(
    page: Page,
) -> None:
    """By mouse, without a reload: a mark made on the page is still there; the line, the marks and
    the figures follow while the hand still holds.
    """
    page.goto("/builds/bittern/route?line=H3")
    page.evaluate("window.kept = 'kept'")
    expect(page.locator(FINDINGS)).to_contain_text(["from the downpipe"])
    before = page.locator('#view-plan .route-line[data-line="H3"] .pipe').get_attribute("d")
    x, y = center(page, '#view-plan .handle[data-at="2"] .grab')
    page.mouse.move(x, y)
    page.mouse.down()
    for step in range(1, 11):
        page.mouse.move(x, y - step)
    expect(page.locator("#findings")).to_contain_text("found nothing against")
    assert page.locator("#marks-plan .spot").count() == 0
    assert page.locator('#view-plan .route-line[data-line="H3"] .pipe').get_attribute("d") != before
    expect(page.locator("#undo")).to_have_count(0)
    with page.expect_response(lambda r: r.request.method == "POST" and r.url.endswith("/route")):
        page.mouse.up()
    expect(page.locator("#undo")).to_contain_text("H3: corner 3 moved")
    expect(page.locator("#findings")).to_contain_text("found nothing against")
    assert page.evaluate("window.kept") == "kept"
    page.locator("#undo").click()
    expect(page.locator(FINDINGS)).to_contain_text(["from the downpipe"])


def test_the_same_by_keyboard_alone(page: Page) -> None:
    page.goto("/builds/bittern/route")
    page.locator('button[data-pick="H3"]').focus()
    page.keyboard.press("Enter")
    handle = page.locator('#view-plan .handle[data-at="2"]')
    handle.focus()
    for press in ("Shift+ArrowUp", "ArrowUp", "ArrowUp"):
        with page.expect_response(lambda r: r.request.method == "POST"):
            page.keyboard.press(press)
        expect(handle).to_be_focused()
    expect(page.locator("#findings")).to_contain_text("found nothing against")
    for _ in range(3):
        with page.expect_response(lambda r: r.url.endswith("/undo")):
            page.keyboard.press("Control+z")
    expect(page.locator(FINDINGS)).to_contain_text(["from the downpipe"])


def test_a_bulkhead_is_added_at_the_firewall_and_a_grommet_at_the_floor(page: Page) -> None:
    page.goto("/builds/bittern/route?line=H3")
    box = page.locator("#paste-text")
    box.fill("x (m); y (mm); z (mm)\n1.4; 430; 620\n3.25; 430; 620\n3,62 ; 380; 700")
    page.locator("#paste-points").click()
    expect(page.locator("#undo")).to_contain_text("H3: 3 measured points")
    expect(page.locator("#findings")).to_contain_text("goes through the firewall bare")
    page.locator(".met p", has_text="firewall").get_by_role("button", name="Bulkhead").click()
    expect(page.locator("#undo")).to_contain_text("bulkhead of H3 at the firewall")
    expect(page.locator("#findings")).not_to_contain_text("goes through the firewall bare")
    tag = re.search(r"(N\d+): bulkhead", page.locator("#undo").inner_text())
    assert tag
    page.goto(f"/builds/bittern/circuit?part={tag[1]}")
    expect(page.locator("#card h2")).to_contain_text("bulkhead union")


def test_pasted_points_that_cannot_be_read_are_told_beside_the_field(page: Page) -> None:
    page.goto(f"/builds/{variant(page, 'egret')}/route?line=H6")
    page.locator("#paste-text").fill("station, bl, wl\n1700, 0, 745\n1690, ten, 715")
    page.locator("#paste-points").click()
    wrong = page.locator('[data-wrong="text"]').first
    expect(wrong).to_contain_text("Line 2")
    expect(page.locator("#paste-text")).to_have_value(re.compile("ten"))
    page.locator("#paste-text").fill("station, bl, wl\n1725, 0, 742\n1680, -322, 715")
    page.locator("#paste-points").click()
    expect(page.locator("#undo")).to_contain_text("2 measured points")
    expect(page.locator('.point-row input[name="x"]').first).to_have_value("1,725")


def test_two_ways_are_suggested_compared_fitted_and_undone(page: Page) -> None:
    page.goto("/builds/bittern/route?line=H3")
    page.locator("#suggest").click()
    ways = page.locator("#ways .way")
    expect(ways).to_have_count(2)
    expect(ways.nth(0)).to_contain_text("Clears R-05 H3")
    first = page.locator("#tried-plan").get_attribute("d")
    assert first
    ways.nth(1).get_by_role("button", name="Show").click()
    expect(ways.nth(1).get_by_role("button", name="Show")).to_have_attribute("aria-pressed", "true")
    assert page.locator("#tried-plan").get_attribute("d") != first
    page.locator("#fit-way-0").click()
    expect(page.locator("#undo")).to_contain_text("under and round")
    expect(page.locator("#findings")).not_to_contain_text("downpipe")
    page.keyboard.press("Control+z")
    expect(page.locator(FINDINGS)).to_contain_text(["from the downpipe"])


def test_a_part_a_clamp_and_a_leg_are_dragged(page: Page) -> None:
    page.goto("/builds/stonechat/route?line=H3")
    x, y = center(page, '#view-side .stands[data-part="F2"] rect')
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 14, y, steps=4)
    with page.expect_response(lambda r: r.request.method == "POST" and r.url.endswith("/route")):
        page.mouse.up()
    expect(page.locator("#undo")).to_contain_text("F2 moved")
    x, y = center(page, '#view-side .chosen-line .clamp[data-clamp="0"]')
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x, y - 20, steps=4)
    with page.expect_response(lambda r: r.request.method == "POST" and r.url.endswith("/route")):
        page.mouse.up()
    expect(page.locator("#undo")).to_contain_text("H3: clamps")
    rows = page.locator(".points-list li")
    many = rows.count()
    one, other = (center(page, f'#view-side .handle[data-at="{i}"] .grab') for i in (0, 1))
    x, y = (one[0] + other[0]) / 2, (one[1] + other[1]) / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x, y - 20, steps=5)
    page.mouse.up()
    expect(rows).to_have_count(many + 1)
    expect(page.locator("#undo")).to_contain_text("added")
    page.locator('.points-list [data-out="1"]').click()
    expect(rows).to_have_count(many)


def test_what_is_typed_wrong_stays_and_is_told(page: Page) -> None:
    page.goto("/builds/bittern/route?line=H3")
    page.locator("#f-radius").fill("twelve")
    page.locator("#f-radius").press("Enter")
    expect(page.locator('[data-wrong="radius"]')).to_contain_text("not a number with a unit")
    expect(page.locator("#f-radius")).to_have_value("twelve")
    page.locator("#f-radius").fill("4 in")
    page.locator("#f-radius").press("Enter")
    expect(page.locator(FINDINGS)).to_contain_text(["H3 is bent by 102 mm; 165 mm is the least"])
    page.locator("#f-measured").fill("11 ft")
    page.locator("#f-measured").press("Enter")
    expect(page.locator("#drawn-length")).to_have_text("3,353")
    expect(page.locator("#route-card")).to_contain_text("Measured on the vehicle")


def test_another_outline_its_dimensions_and_a_zone(page: Page) -> None:
    page.goto("/builds/dunlin/route")
    page.locator(".space-form summary").first.click()
    page.locator("#outline-name").select_option("pick-up")
    expect(page.locator("#undo")).to_contain_text("Outline: pick-up")
    page.locator(".space-form summary").first.click()
    page.locator("#dim-wheelbase").fill("3.4 m")
    page.locator("#dim-wheelbase").press("Enter")
    expect(page.locator("#undo")).to_contain_text("wheelbase: 3.4 m")
    page.locator("#zones-form summary").click()
    page.get_by_role("button", name="change").nth(1).click()
    expect(page.locator("#zone-name")).not_to_have_value("")
    page.locator("#zone-name").fill("toolbox")
    page.locator("#put-zone").click()
    expect(page.locator("#undo")).to_contain_text("Zone: toolbox")
    x, y = center(page, '#view-plan [data-zone="battery"]')
    page.keyboard.down("Alt")
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 30, y - 10, steps=3)
    page.mouse.up()
    page.keyboard.up("Alt")
    expect(page.locator("#undo")).to_contain_text("battery moved")


def test_frames_keep_coming_while_a_point_is_dragged(page: Page) -> None:
    """By the browser's own timing, over sixty moves of the hand."""
    page.goto("/builds/bittern/route?line=H3")
    x, y = center(page, '#view-plan .handle[data-at="1"] .grab')
    page.evaluate(
        "window.frames_ = []; const tick = (t) => { window.frames_.push(t); window.counting && requestAnimationFrame(tick); }; window.counting = true; requestAnimationFrame(tick);"
    )
    page.mouse.move(x, y)
    page.mouse.down()
    for step in range(60):
        page.mouse.move(x - step * 0.8, y + (step % 7))
    frames = page.evaluate("(window.counting = false, window.frames_)")
    page.mouse.up()
    gaps = sorted(b - a for a, b in pairwise(frames))
    assert len(gaps) > 10
    assert gaps[len(gaps) // 2] < 1000 / 30


def test_the_hand_and_the_server_draw_the_same_curve(page: Page) -> None:
    """What bend.js draws while a hand drags lies on what the server draws, and is as long."""
    page.goto("/builds/bittern/route?line=H4")
    both = page.evaluate("""async () => {
        const { curve, lengths } = await import(document.querySelector('link[href$="bend.js"]').href);
        const line = JSON.parse(document.getElementById("route-data").textContent).lines.H4;
        const probe = document.createElementNS("http://www.w3.org/2000/svg", "path");
        const { View } = await import(document.querySelector('link[href$="view.js"]').href);
        const svg = document.getElementById("view-side");
        probe.setAttribute("d", new View(svg).path(curve(line.a, line.corners, line.b, line.r)));
        svg.append(probe);
        const drawn = svg.querySelector('.route-line[data-line="H4"] .pipe');
        const gaps = [0.1, 0.25, 0.4, 0.6, 0.75, 0.9].map((t) => {
            const [p, q] = [probe, drawn].map((path) => path.getPointAtLength(t * path.getTotalLength()));
            return Math.hypot(p.x - q.x, p.y - q.y);
        });
        return [gaps, lengths(curve(line.a, line.corners, line.b, line.r)).at(-1)];
    }""")
    assert max(both[0]) < 0.5
    shown = page.locator("#drawn-length").inner_text().replace(",", "")
    assert 0 < float(shown) - both[1] < 200  # the legs of both ends are the rest


def test_it_turns_and_prints_to_scale(page: Page) -> None:
    page.goto("/builds/egret/route?view=turn")
    shown = page.locator("#turned").evaluate("(c) => c.toDataURL()")
    page.locator("#turned").focus()
    page.keyboard.press("ArrowLeft")
    assert page.locator("#turned").evaluate("(c) => c.toDataURL()") != shown
    page.goto("/builds/bittern/route/paper?paper=A4")
    for sheet in page.locator(".paper-sheet:has(svg.vehicle)").all():
        said = re.search(r"1 : ([\d.]+)", sheet.locator("h2").inner_text())
        assert said
        svg = sheet.locator("svg.vehicle")
        assert float(svg.get_attribute("width").removesuffix("mm")) <= 297 - 2 * 10  # type: ignore[union-attr]
        bar = float(sheet.locator(".scale-line svg").get_attribute("width").removesuffix("mm"))  # type: ignore[union-attr]
        mm = 1000.0 if "1,000 mm" in sheet.locator(".scale-line").inner_text() else 500.0
        assert bar * float(said[1]) == pytest.approx(mm, rel=1e-3)
        box = svg.evaluate(
            "(s) => [s.viewBox.baseVal.width, Number(s.dataset.scale), s.getBoundingClientRect().width]"
        )
        assert box[0] / box[1] / float(said[1]) == pytest.approx(
            box[2] / 96 * 25.4, rel=2e-3
        )  # what it shows, in the vehicle, against what it fills on paper
