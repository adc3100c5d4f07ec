"""What a hose maker gets: the printed order and its CSV, and nothing else. Hoses are remade from
both, and the picture is measured by its pixels against the clock it says.
"""

import csv
import io
import math
import re

import numpy as np
import pypdf
import pytest
from PIL import Image
from playwright.sync_api import Page

BUILDS = ("bittern", "curlew", "dunlin", "egret", "plover", "stonechat")
SIGNED, SAID = (
    "egret",
    {"number": "TH-881", "by": "Ann Reed", "reach": "555 0101"},
)  # a signed build stays as it is: who orders is written on the paper
MM = r"([\d,]+(?:\.\d)?)\s?mm"
# What a maker asks for, by where it stands on a hose's own lines of the paper; common practice,
# with SAE J517's construction and DIN 20066's lengths.
ON_PAPER = {
    "quantity": r"(\d+) off",
    "hose": r"(−\d+ [^,]+|\d[^,]*), bore",
    "size": r"−(\d+) ",
    "bore": rf"bore {MM}",
    "length": rf"{MM}\s?± ?",
    "tolerance": rf"± ?{MM}",
    "end A angle": r"End A (straight|\d+°)",
    "end A thread": r"End A [^,]+, ([^.]+?),",
    "end A style": r"End A [^.]*, ([^,.]+)\. Seat",
    "end A seat to hose": rf"End A [^.]+\. Seat to (?:corner|where the hose begins) {MM}",
    "end A goes in": rf"End A .*?hose goes in {MM}",
    "end B angle": r"End B (straight|\d+°)",
    "end B thread": r"End B [^,]+, ([^.]+?),",
    "end B style": r"End B [^.]*, ([^,.]+)\. Seat",
    "end B seat to hose": rf"End B [^.]+\. Seat to (?:corner|where the hose begins) {MM}",
    "end B goes in": rf"End B .*?hose goes in {MM}",
    "clock": r"Clocking of B (any|not known|[\d.]+°)",
    "seat to seat": rf"seat to seat along the line {MM}",
    "overall": rf"overall {MM}",
    "cut": rf"hose itself with these ends {MM}",
    "standard": r"Hose ([^;]+);",
    "liner": r"liner ([^;]+);",
    "braid": r"braid ([^;]+);",
    "cover": r"cover ([^;]+?)(?:;| Ends)",
    "material of ends": r"Ends ([^;]+);",
    "swivel": r"Ends [^;]+; (\S.+?) Test",
    "test pressure": r"Test ([\d,.]+ psi)",
    "test time": r"for (\d+) min",
    "with what": r"with (liquid)",
    "where the reading goes": r"(read at the end:)",
}
ON_EACH_ORDER = (
    r"ordered by",
    r"issue \d+ of 20\d\d-\d\d-\d\d",
    r"page 1 of \d+",
    r"Fuel: \S+",
    r"Lengths here are (?:seat|overall)",
    r"end A pointing up",
)


def number(text: str) -> float:
    return float(text.replace(",", ""))


def on_paper(page: Page, slug: str) -> tuple[str, list[str]]:
    """The text of the printed order, and that of each hose in it, read from the PDF."""
    page.goto(f"/builds/{slug}/hoses/order")
    pages = pypdf.PdfReader(io.BytesIO(page.pdf(prefer_css_page_size=True))).pages
    whole = " ".join(" ".join(p.extract_text().split()) for p in pages)
    heads = [m.start() for m in re.finditer(r"[A-Z]+\d+[A-Z0-9 ,/]* \d+ off", whole)]
    return whole, [whole[a:b] for a, b in zip(heads, [*heads[1:], len(whole)], strict=True)]


def remade(hose: str) -> dict[str, float]:
    """A hose from its lines on the paper: what is bare between its ends, by each of its three
    lengths [mm].
    """
    legs = []
    for end in "AB":
        found = re.search(
            rf"End {end} (straight|\d+°).*?Seat to (?:corner|where the hose begins) {MM}(?:, corner to where the hose begins {MM})?",
            hose,
        )
        assert found
        angle = 0.0 if found[1] == "straight" else float(found[1].rstrip("°"))
        a, b = (0.0, number(found[2])) if not found[3] else (number(found[2]), number(found[3]))
        inside = re.search(rf"End {end} .*?hose goes in {MM}", hose)
        assert inside
        legs.append((angle, a, b, number(inside[1])))
    says = {
        name: number(re.search(ON_PAPER[name], hose)[1])
        for name in ("seat to seat", "overall", "cut")
    }  # type: ignore[index]
    return {
        "seat to seat": says["seat to seat"] - sum(a + b for _, a, b, _ in legs),
        "overall": says["overall"]
        - sum(b + a * math.cos(math.radians(angle)) for angle, a, b, _ in legs),
        "cut": says["cut"] - sum(inside for *_, inside in legs),
    }


def test_hoses_are_remade_from_the_paper_and_nothing_a_maker_asks_for_is_missing(
    page: Page,
) -> None:
    """Thirty facts of every hose and eight of every order; three lengths that agree within their
    rounding; the CSV says the same.
    """
    assert len(ON_PAPER) == 30
    count = 0
    for slug in BUILDS:
        page.goto(f"/builds/{slug}/hoses/order")
        said = SAID if slug != SIGNED else {}
        for field, text in said.items():
            page.locator(f"#order-{field}").fill(text)
        with page.expect_response(re.compile("/hoses/act")):
            page.locator("#order-save").click()
        whole, hoses = on_paper(page, slug)
        for wanted in (*ON_EACH_ORDER, *said.values()):
            assert re.search(wanted, whole), (slug, wanted)
        assert "Keep" not in whole, "no button is printed"
        rows = list(
            csv.DictReader(io.StringIO(page.request.get(f"/builds/{slug}/hose-order.csv").text()))
        )
        assert len(hoses) == len(rows)
        for hose, row in zip(hoses, rows, strict=True):
            missing = [name for name, pattern in ON_PAPER.items() if not re.search(pattern, hose)]
            assert not missing, (slug, missing, hose)
            bare = remade(hose)
            assert max(bare.values()) - min(bare.values()) < 0.4, (
                hose,
                bare,
            )  # each length on the paper is rounded to 0.1 mm, and six legs with it
            for name, column in (
                ("seat to seat", "seat_to_seat_mm"),
                ("overall", "overall_mm"),
                ("cut", "cut_mm"),
                ("tolerance", "tolerance_mm"),
                ("bore", "bore_mm"),
            ):
                assert number(re.search(ON_PAPER[name], hose)[1]) == pytest.approx(
                    float(row[column]), abs=0.0501
                ), name  # type: ignore[index]
            clock = re.search(ON_PAPER["clock"], hose)[1].rstrip("°")  # type: ignore[index]
            assert clock == {"ask": "not known"}.get(row["clocking_deg"], row["clocking_deg"])
            assert [row[x] for x in ("order", "ordered_by", "reach")] == [
                said.get(x, "") for x in SAID
            ]
            assert row["build"]
            assert row["issue"].startswith("revision ")
            assert all(
                ord(c) < 128 for c in row["size"] + row["hose"] + row["label"] + row["end_a_thread"]
            )
            assert ("Not to be made" in whole.split(hose)[0]) == (row["to_be_made"] != "yes")
            count += int(row["quantity"])
    assert count >= 25


def pixels(page: Page, box: str, n: int, wide: float, high: float) -> np.ndarray:
    """Where a picture is dark, scaled to its own units: rows of y, x."""
    data = page.locator(box).nth(n).screenshot()
    grey = np.asarray(Image.open(io.BytesIO(data)).convert("L").resize((int(wide), int(high))))
    return np.argwhere(grey < 140)


def test_the_picture_is_turned_to_its_clock_and_the_face_points_there(page: Page) -> None:
    """By pixels, in black on white: where the nut of B stands over or under the hose is what its
    angle and clock say; the hand of B on the face points to the clock, that of A up.
    """
    page.emulate_media(media="print")
    seen = set()
    for slug in BUILDS:
        page.goto(f"/builds/{slug}/hoses/order")
        page.evaluate(
            "document.querySelectorAll('.order svg text, .order .measure, .order .points, .order .points-dot').forEach(e => e.style.visibility = 'hidden')"
        )
        rows = list(
            csv.DictReader(io.StringIO(page.request.get(f"/builds/{slug}/hose-order.csv").text()))
        )
        faces = 0
        for n, row in enumerate(rows):
            angle = math.radians(float(row["end_b_angle_deg"]))
            clock = (
                math.radians(float(row["clocking_deg"]))
                if row["clocking_deg"] not in ("any", "ask")
                else 0.0
            )
            dark = pixels(page, "article.order > svg", n, 760, 136)
            nut = [
                (
                    x * math.cos(angle) + y * math.sin(angle),
                    62 - (x * math.sin(angle) - y * math.cos(angle)) * math.cos(clock),
                )
                for x in (26, 42)
                for y in (-9, 9)
            ]
            free = dark[
                (dark[:, 1] > 640) & ((dark[:, 1] > 687) | (np.abs(dark[:, 0] - 62) > 11))
            ]  # beside the hose with its sleeve
            up = math.sin(angle) * math.cos(
                clock
            )  # the tube lies between the nut and the hose: only the far side of the nut is free
            if (
                abs(math.cos(clock)) > 0.1
            ):  # seen from the side; a nut that points at whoever looks is a line
                assert free[:, 1].max() == pytest.approx(
                    max(684 + max(x for x, _ in nut), 687), abs=4
                ), (slug, row["label"])
            if abs(up) > 0.3:
                measured, drawn = (
                    (free[:, 0].min(), min(y for _, y in nut))
                    if up > 0
                    else (free[:, 0].max(), max(y for _, y in nut))
                )
                assert measured == pytest.approx(drawn, abs=3), (
                    slug,
                    row["label"],
                    row["clocking_deg"],
                )
                seen.add("up" if up > 0 else "down")
            if clock and float(row["end_a_angle_deg"]):
                face = pixels(page, ".clock-face", faces, 72, 72) - 36.0
                hands = face[np.hypot(face[:, 0], face[:, 1]) < 16]
                turned = (
                    np.degrees(np.arctan2(hands[:, 1], -hands[:, 0])) + 360
                ) % 360  # clockwise from up
                far = hands[np.hypot(hands[:, 0], hands[:, 1]) > 8]
                where = (np.degrees(np.arctan2(far[:, 1], -far[:, 0])) + 360) % 360
                assert len(turned)
                for hand in (0.0, math.degrees(clock)):
                    off = np.abs((where - hand + 180) % 360 - 180)
                    assert (off < 12).any(), (slug, row["label"], hand)
                stray = np.minimum(
                    np.abs((where + 180) % 360 - 180),
                    np.abs((where - math.degrees(clock) + 180) % 360 - 180),
                )
                assert (stray < 25).all(), (slug, row["label"])
                faces += 1
    assert seen == {"up", "down"}
