"""A drag shop's day, from an empty store to a signed, forked and restored build: each act is
counted, each sheet is read back from its PDF.
"""

import io
import re
from collections.abc import Iterator
from pathlib import Path

import pypdf
import pytest
from pages import saved
from playwright.sync_api import Browser, Page, expect
from running import App, run_in

from tall_heron.core.document.build import load
from tall_heron.core.prove.car import Noise, drive_text
from tall_heron.core.prove.faults import Fault

LINE = "Heronry: drag V8 8.2 L, 1900 hp, methanol, blown, 60 psi + 35"
MOST_ACTS = 200
SAYS = "methanol,ethanol_max_percent,provenance,price"
PACK = [
    f"kind,title,points,flow_lph,drop_kpa,micron,medium,figures.bore_mm,figures.loss_coefficient,dash,rated_cc_min,{SAYS}"
]
PACK += ["pump,Yard 1300,0@900@38; 1000@500@32; 1300@0@20,,,,,,,,,yes,100,sheet,900"]
PACK += [
    f"filter,Yard filter {i},,1500,{8 + i},{10 + i},steel mesh,,,,,yes,100,sheet,{60 + i}"
    for i in range(12)
]
PACK += [
    f"fitting,Yard adapter {i},,,,,,{15 + i},0.5,-16,,yes,100,sheet,{20 + i}" for i in range(12)
]
PACK += [
    f"injector,Yard {4000 + 100 * i} cc,,,,,,,,,{4000 + 100 * i},yes,100,sheet,{200 + i}"
    for i in range(7)
]
HOSE = """Yard hose {dash} conductive PTFE
ID: {bore} mm
Size: {dash}
Working pressure: 1000 psi
Bend radius: {bend} in
Ends: crimped
Straight end takes up: {straight} mm
Bent end takes up: {bent} mm
Throat: {throat} mm
Fuels: gasoline, ethanol, methanol
Standard: SAE J517 100R14
Liner: PTFE, conductive
Braid: 304 steel
Cover: none
Price: 42
Supplier: Marsh Lane"""
SIZES = (
    ("-16", 22.2, 7.5, 34, 52, 19),
    ("-12", 15.9, 6.5, 32, 48, 13.5),
    ("-8", 10.3, 5, 28, 40, 9),
    ("-4", 5.5, 3, 22, 30, 4.5),
)
SHEETS = [
    HOSE.format(dash=d, bore=b, bend=r, straight=t, bent=u, throat=x) for d, b, r, t, u, x in SIZES
]
SHEETS += [
    "Yard 1400 external fuel pump\nWorks by: gerotor\nMounting: external\nFuels: gasoline, methanol\nInlet: -12 ORB\nOutlet: -12 ORB\nMotor: brushless\n"
    "Flow (lph); Pressure (psi); Current (A)\n1400; 0; 22\n1150; 60; 30\n900; 110; 40",
    "Yard strainer\nFlow (lph): 2500\nPressure drop: 0.6 psi\nMicron: 100\nElement: steel mesh\nFuels: methanol",
    "Yard check valve\nOpens at: 0.4 psi\nBore: 16 mm\nK: 1.2\nFuels: methanol\nInlet: -12 AN\nOutlet: -12 AN",
    "Yard shut-off\nType: valve\nBore: 19 mm\nK: 0.3\nSize: -16\nFuels: methanol",
    "Yard 5000 injector\nStatic flow: 5000 cc/min\nRated at: 300 kPa\nFuels: gasoline, ethanol, methanol\nDead time at 12 V: 1.1 ms",
    "Yard fuel cell\nKind: fuel cell\nCapacity: 45 L\nLength: 450 mm\nWidth: 400 mm\nHeight: 270 mm\nFuels: methanol",
]


class Shop:
    """Hands at a page that count what they do: a field filled, a press, a choice, a page opened, a
    sheet pasted.
    """

    def __init__(self, page: Page) -> None:
        self.page, self.acts = page, 0

    def open(self, path: str) -> None:
        self.acts += 1
        self.page.goto(path)
        expect(self.page.locator("body")).to_have_attribute("data-alive", "yes")

    def fill(self, field: str, text: str) -> None:
        self.acts += 1
        self.page.locator(field).fill(text)

    def click(self, what: str) -> None:
        self.acts += 1
        self.page.locator(what).first.click()

    def keeps(self, field: str, text: str, *ends: str) -> None:
        """A field filled and kept with Enter."""
        self.fill(field, text)
        with saved(self.page, *ends) as answer:
            self.page.locator(field).press("Enter")
        assert answer.value.ok, answer.value.text()[:300]

    def sheet(self) -> str:
        """What is printed of the page that is open, as text."""
        self.acts += 1
        pages = pypdf.PdfReader(io.BytesIO(self.page.pdf(prefer_css_page_size=True))).pages
        return " ".join(" ".join(p.extract_text() for p in pages).split())


@pytest.fixture
def empty(tmp_path: Path) -> Iterator[App]:
    yield from run_in(tmp_path, "serve")


def test_a_drag_shops_day(empty: App, browser: Browser, tmp_path: Path) -> None:
    context = browser.new_context(
        viewport={"width": 1280, "height": 800}, base_url=empty.address, accept_downloads=True
    )
    page = context.new_page()
    shop = Shop(page)
    _parts(shop)
    home = _build(shop)
    _bench(shop, home)
    _proved(shop, home, tmp_path)
    _kept(shop, home, tmp_path)
    context.close()
    assert shop.acts <= MOST_ACTS, shop.acts


def _parts(shop: Shop) -> None:
    """32 parts by a pack, ten by a pasted sheet each, and whom they come from."""
    page = shop.page
    shop.open("/shelf")
    page.set_input_files(
        "#pack-file",
        {"name": "yard.csv", "mimeType": "text/csv", "buffer": "\n".join(PACK).encode()},
    )
    shop.click("#pack-take")
    expect(page.locator("#pack-says")).to_contain_text("32 parts taken")
    for text in SHEETS:
        title = text.splitlines()[0]
        shop.fill("#own-sheet", text)
        expect(page.locator("#own-sheet-read")).to_contain_text("read")
        assert "not understood" not in page.locator("#own-sheet-read").inner_text(), title
        shop.click("#own-save")
        expect(page.locator("#own-says")).to_have_text(f"{title} is on the shelf")
    shop.click("section[aria-label=Suppliers] summary")
    shop.fill("#supplier-name", "Marsh Lane")
    shop.fill("#supplier-days", "6")
    shop.click("#supplier-keep")
    expect(page.locator("#suppliers")).to_contain_text("4 of your own parts come from there")
    expect(page.locator("#own-parts tbody tr:not(.uses)")).to_have_count(42)


def _build(shop: Shop) -> str:
    """From one line to a build with the shop's own hoses, injectors and staged pump; no Stop and no
    Check but what the shop itself brings.
    """
    page = shop.page
    shop.open("/")
    shop.fill("#new-name", LINE)
    shop.click("text=Start >> visible=true")
    expect(page.locator("h1")).to_have_text("Heronry")
    home = f"/builds/{page.url.split('/builds/')[1].split('/')[0]}"
    shop.open(f"{home}/layout")
    expect(page.locator("#sizing-says")).to_have_text(
        "Each as it would be laid out, with parts sized for it.", timeout=90_000
    )
    assert page.locator(".choice tbody.fitted").count() == 1
    elements = page.request.get(f"{home}/build.json").json()["circuit"]["elements"]
    hoses = [e for e in elements if e["kind"] in ("hose", "vent", "reference")]
    for e in hoses:
        shop.open(f"{home}/circuit?part={e['id']}")
        _fit(shop, f"Yard hose {e['properties']['dash']} ")
    for id in [e["id"] for e in elements if e["kind"] == "check"]:
        shop.open(f"{home}/circuit?part={id}")
        _fit(shop, "Yard check valve")
    shop.open(f"{home}/circuit?part=P2")
    if not page.locator("#stage").is_visible():
        shop.click("#rework summary")
    shop.keeps("#stage", "8 psi", "/rework")
    sheet = page.locator("#card")
    expect(sheet).to_contain_text("8")
    return home


def _fit(shop: Shop, title: str) -> None:
    page = shop.page
    shop.acts += 2
    page.get_by_role("button", name=re.compile(f"^Try {title}")).first.click()
    page.get_by_role("button", name=re.compile("^Fit it")).click()
    expect(page.locator(".trial")).to_have_count(0)


def _bench(shop: Shop, home: str) -> None:
    """Ten tapes, the order, the loom, what is to buy, each on paper."""
    page = shop.page
    shop.open(f"{home}/hoses")
    names = page.locator("#cuts .cut-row[data-hose]").evaluate_all(
        "all => all.map(r => r.dataset.hose)"
    )
    for i, name in enumerate(names[:10]):
        shop.click(f"#hose-{name}")
        expect(page.locator("#hose-card h2")).to_contain_text(name)
        shop.keeps("#hose-measured", f"{900 + 37 * i} mm", "/act")
    text = shop.sheet()
    assert all(name in text for name in names)
    assert "Heronry" in text
    shop.open(f"{home}/hoses/order")
    for field, words in (("number", "TH-881"), ("by", "A. Reed"), ("reach", "555 0101")):
        shop.fill(f"#order-{field}", words)
    with saved(page, "/act"):
        shop.click("#order-save")
    expect(page.locator(".order-head").first).to_contain_text("TH-881")
    text = shop.sheet()
    for wanted in (
        "TH-881",
        "A. Reed",
        "Yard hose -16 conductive PTFE",
        "SAE J517 100R14",
        "Fuel: methanol",
    ):
        assert wanted in text, wanted
    assert "Not on this order" not in text
    shop.open(f"{home}/wiring/loom")
    text = shop.sheet()
    for wanted in ("P1-1", "P2-1", "K0", "battery"):
        assert wanted in text, wanted
    shop.open(f"{home}/hoses/buy")
    text = shop.sheet()
    assert "Yard hose -12 conductive PTFE" in text
    assert "Marsh Lane, 6 d" in text


def _proved(shop: Shop, home: str, tmp_path: Path) -> None:
    """Ten tests read as they were said, a run from a logger, and a signature that says why what
    stays stays.
    """
    page = shop.page
    shop.open(f"{home}/prove")
    done = 0
    while done < 10:
        card = page.locator("#prove-card")
        said = re.search(r"predicted ([−\d.,]+) (\S+)", card.locator(".card-head p").inner_text())
        if said and page.locator("#v-value").count():
            shop.keeps("#v-value", f"{said[1]} {said[2]}".replace("−", "-"), "/prove/act")
            expect(card.locator(".card-head p")).to_contain_text("within")
            done += 1
        rows = page.locator(".test-row.not-run").filter(has_text="predicted")
        if done < 10:
            shop.acts += 1
            rows.first.click()
            expect(card.locator(".card-head p")).to_contain_text("not run")
    run = tmp_path / "pass.csv"
    run.write_text(
        drive_text(load(page.request.get(f"{home}/build.json").text()), Fault("none"), 4, Noise()),
        encoding="utf-8",
        newline="",
    )
    shop.open(f"{home}/prove/replay")
    shop.acts += 1
    page.locator("#log-file").set_input_files(run)
    expect(page.locator(".worst-says")).to_be_visible(timeout=60_000)
    shop.click("#keep-run")
    expect(page.locator("#replay-box")).to_contain_text("kept in the log")
    shop.open(f"{home}/prove")
    shop.click(".sign-off summary")
    shop.fill("#v-name", "A. Reed")
    shop.fill(".sign-off [name=although]", "The rest is read on Saturday at the strip.")
    for reason in page.locator('.sign-off [name^="reason "]').all():
        shop.acts += 1
        reason.fill("known, stays for this weekend")
    with saved(page, "/prove/act"):
        shop.acts += 1
        page.locator(".sign-off form button").last.click()
    expect(page.locator(".signature b")).to_have_text("A. Reed")
    shop.open(f"{home}/prove/record")
    text = shop.sheet()
    for wanted in ("A. Reed", "Although: The rest is read on Saturday", "T5"):
        assert wanted in text, wanted


def _kept(shop: Shop, home: str, tmp_path: Path) -> None:
    """A variant of what was signed, a backup, and everything back after the variant was begun."""
    page = shop.page
    shop.open("/backup")
    with page.expect_download() as taken:
        shop.click("#backup-take")
    taken.value.save_as(tmp_path / "mine.zip")
    shop.open(f"{home}/history")
    shop.fill("#variant-name", "Heronry small blower")
    with page.expect_navigation():
        page.locator("#variant-name").press("Enter")
    expect(page.locator("h1")).to_contain_text("Heronry small blower")
    shop.open("/backup")
    shop.acts += 2
    page.locator("#backup-file").set_input_files(tmp_path / "mine.zip")
    page.locator("#backup-sure").check()
    shop.click("#backup-restore")
    expect(page.locator(".restored")).to_contain_text("Restored: 1 build")
    expect(page.locator(".restored")).not_to_contain_text("missing")
    shop.open(f"{home}/prove")
    expect(page.locator(".signature b")).to_have_text("A. Reed")
    shop.open("/shelf")
    expect(page.locator("#own-parts tbody tr:not(.uses)")).to_have_count(42)
