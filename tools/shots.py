"""One current picture of each main view, from the demo data, into docs/screenshots."""

import shutil
import sys
import tempfile
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "tests/kit"))

from running import start  # noqa: E402

OUT = ROOT / "docs" / "screenshots"
DESK, PAPER = (1280, 800), (794, 1123)
VIEWS: tuple[tuple[str, str, tuple[int, int], str, tuple[tuple[str, str], ...]], ...] = (
    ("bench", "/", DESK, "day", ()),
    ("brief", "/builds/bittern/brief", DESK, "day", ()),
    ("circuit", "/builds/bittern/circuit", DESK, "day", ()),
    ("layout", "/builds/bittern/layout", DESK, "day", ()),
    ("cases", "/builds/bittern/cases", DESK, "day", ()),
    ("failures", "/builds/egret/cases/failures?f=fails+V1+stands+at+right", DESK, "day", ()),
    ("run", "/builds/bittern/cases/run?fill=35+L", DESK, "day", ()),
    ("route", "/builds/bittern/route?line=H3", DESK, "day", ()),
    ("circuit-aircraft", "/builds/egret/circuit?part=V1", DESK, "day", ()),
    ("shelf", "/shelf", DESK, "day", ()),
    ("sheet", "/builds/bittern/sheet", PAPER, "print", ()),
    ("size", "/builds/curlew/size", DESK, "size", ()),
    ("hoses", "/builds/bittern/hoses?hose=H3", DESK, "day", ()),
    ("joints", "/builds/bittern/hoses/joints", DESK, "day", ()),
    ("buy", "/builds/bittern/hoses/buy", DESK, "day", ()),
    ("wiring", "/builds/bittern/wiring", DESK, "day", ()),
    ("cut-off", "/builds/bittern/wiring/cut-off", DESK, "day", ()),
    ("prove", "/builds/bittern/prove?part=flow+P2", DESK, "causes", ()),
    ("live", "/builds/bittern/prove/live", DESK, "live", ()),
)


def change(page: Page, fields: tuple[tuple[str, str], ...]) -> None:
    for field, text in fields:
        page.fill(f"#{field}", text)
        with page.expect_response(lambda r: r.request.method == "POST"):
            page.press(f"#{field}", "Enter")
        page.evaluate("document.activeElement.blur()")


def sized_to_the_end(page: Page) -> None:
    """The chooser with every layout in its place."""
    page.get_by_text("Each as it would be laid out, with parts sized for it.").wait_for()


def main() -> None:
    OUT.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        process, app = start(Path(folder))
        browser = playwright.chromium.launch(
            executable_path=shutil.which("chromium"), args=["--no-sandbox", "--disable-gpu"]
        )
        for name, path, (width, height), mode, fields in VIEWS:
            context = browser.new_context(
                viewport={"width": width, "height": height}, base_url=app.address
            )
            if mode == "night":
                context.add_cookies([{"name": "theme", "value": "night", "url": app.address}])
            page = context.new_page()
            page.goto(path, wait_until="networkidle")
            if name == "circuit":
                page.locator(".fix[data-told]").nth(2).wait_for()  # what clears the open findings
            change(page, fields)
            if mode == "size":
                page.wait_for_selector(".proposal")
            if name.startswith("layout"):
                sized_to_the_end(page)
            if mode == "causes":
                page.locator("#causes").get_by_text("Likely").wait_for()
            if mode == "live":
                page.locator("#l-fault").select_option(label="the reference of PR is off or leaks")
                page.locator("#l-speed").select_option("40")
                page.locator("#live-start").click()
                page.locator("#live-keep").wait_for(timeout=60000)
            if mode == "print":
                page.emulate_media(media="print")
            page.evaluate("document.fonts.ready")
            page.screenshot(path=OUT / f"{name}.png")
            context.close()
        browser.close()
        process.terminate()
        process.wait()


if __name__ == "__main__":
    main()
