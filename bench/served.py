"""What the application takes as it is served: its start, pages, edits, swaps, marks, memory."""

import json
import re
import shutil
import statistics
import tempfile
import urllib.parse
import urllib.request
from pathlib import Path
from typing import Any

from rows import Table, exponent, wall
from running import start, stop

from tall_heron.core.document.build import dump
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.prove.entry import Note, entry_hash, entry_text
from tall_heron.store import builds, db, logs

SLUGS = tuple(demo_builds())
VIEWS = (
    "brief", "layout", "circuit", "cases", "cases/curves", "cases/heat", "cases/failures", "route",
    "hoses", "hoses/buy", "wiring", "prove",
)  # fmt: skip


def resident_mb(pid: int) -> float:
    """Resident memory of a process and its children [MB]."""
    total = 0.0
    for folder in Path("/proc").glob("[0-9]*"):
        try:
            status = (folder / "status").read_text()
        except OSError:
            continue
        parent = re.search(r"PPid:\s+(\d+)", status)
        size = re.search(r"VmRSS:\s+(\d+)", status)
        if size and (int(folder.name) == pid or (parent and int(parent.group(1)) == pid)):
            total += int(size.group(1)) / 1024
    return total


class Browser:
    """What a page does: its cookie, its token, the revision it shows, of a variant of a build: one
    that is signed does not change.
    """

    def __init__(self, address: str, slug: str) -> None:
        self.address = address
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor())
        self.token = re.findall(
            r'name="csrf" content="([^"]+)"', self.get(f"builds/{slug}/circuit")
        )[0]
        form = urllib.parse.urlencode(
            {"csrf_token": self.token, "name": f"{slug} to change"}
        ).encode()
        with self.opener.open(f"{address}builds/{slug}/variant", form) as answer:
            self.slug = answer.geturl().split("/builds/")[1].split("/")[0]
        page = self.get(f"builds/{self.slug}/circuit")
        self.head = int(re.findall(r'data-head="(\d+)"', page)[0])
        self.part = re.findall(r'data-part="([^"]*)"', page)[0]

    def get(self, path: str, **headers: str) -> str:
        with self.opener.open(
            urllib.request.Request(self.address + path, headers=headers)
        ) as answer:
            return str(answer.read().decode())

    def post(self, route: str, body: dict[str, Any]) -> dict[str, Any]:
        headers = {
            "Content-Type": "application/json",
            "X-CSRFToken": self.token,
            "Accept": "application/json",
        }
        request = urllib.request.Request(
            f"{self.address}builds/{self.slug}/{route}",
            json.dumps({"head": self.head} | body).encode(),
            headers,
        )
        with self.opener.open(request) as answer:
            got: dict[str, Any] = json.loads(answer.read())
        return got

    def edit(self, power: str) -> dict[str, Any]:
        got = self.post(
            "brief",
            {
                "field": "power_kw",
                "text": power,
                "page": "circuit",
                "part": self.part,
                "case": "peak",
            },
        )
        self.head = got["head"]
        return got


def get(address: str, path: str = "") -> bytes:
    """A page, or a file."""
    with urllib.request.urlopen(address + path) as answer:
        return bytes(answer.read())


def server(table: Table) -> None:
    """Start, memory, edits with what is asked for after them, and what other pages wait for."""
    with tempfile.TemporaryDirectory() as folder:
        begun: list[Any] = []

        def begin() -> None:
            begun[:] = start(Path(folder))
            get(begun[1].address)

        table.time("first answer on a new store with the demo", [wall(begin)], 1500)
        stop(begun[0])
        table.time("first answer on a standing store", [wall(begin)], 1000)
        process, app = begun
        try:
            table.add("resident at the start", resident_mb(process.pid), 90, "MB")
            edits(table, app.address)
            table.add("resident after 110 edits", resident_mb(process.pid), 140, "MB")
            for _ in range(5):
                for slug in SLUGS:
                    for view in VIEWS:
                        get(app.address, f"builds/{slug}/{view}")
            table.add("resident after 360 pages more", resident_mb(process.pid), 150, "MB")
            pages_after_an_edit(table, app.address)
            again(table, app.address)
            keypress(table, app.address)
        finally:
            stop(process)


def edits(table: Table, address: str) -> None:
    """110 edits on Circuit, each with its swaps, its ladder and the other stations' marks."""
    taken: dict[str, list[float]] = {k: [] for k in ("edit", "swaps", "ladder", "marks")}
    for slug in SLUGS:
        brief = demo_builds()[slug].brief
        assert brief is not None
        browser = Browser(address, slug)
        for i in range(110 // len(SLUGS) + 1):
            power = f"{brief.power_kw / 0.7457 * (1 + i / 500):.1f} hp"
            taken["edit"].append(wall(lambda b=browser, p=power: b.edit(p)))  # type: ignore[misc]
            asked = f"part={browser.part}&case=peak"
            for name, path in (("swaps", asked), ("ladder", asked), ("marks", "page=circuit")):
                taken[name].append(
                    wall(
                        lambda b=browser, n=name, p=path: b.get(  # type: ignore[misc]
                            f"builds/{b.slug}/{n}?{p}", Accept="application/json"
                        )
                    )
                )
    table.time("an edit on Circuit", taken["edit"], 25)
    table.time("the swaps on the screen after it", taken["swaps"], 40)
    table.time("the ladder after those", taken["ladder"], None)
    table.time("the marks of the other stations, last", taken["marks"], None)


def pages_after_an_edit(table: Table, address: str) -> None:
    """A page after an edit, less the same page again: what it works out for the first time."""
    over: dict[str, float] = {}
    browser = Browser(address, "bittern")
    for n, view in enumerate(("brief", "layout", "cases", "route", "hoses", "wiring", "prove")):
        plain, known = list[float](), list[float]()
        for i in range(5):
            browser.edit(f"{560 + 20 * n + i} hp")
            plain.append(wall(lambda v=view: browser.get(f"builds/{browser.slug}/{v}")))  # type: ignore[misc]
            known.append(wall(lambda v=view: browser.get(f"builds/{browser.slug}/{v}")))  # type: ignore[misc]
        over[view] = statistics.median(plain) - statistics.median(known)
    for view in ("brief", "layout"):  # they look at no slow rules of their own
        table.time(f"what {view} waits for after an edit", [max(over[view], 0.0)], 30)
    for view in ("cases", "route", "hoses", "wiring", "prove"):
        table.time(f"{view} after an edit, its own rules with it", [over[view]], None)


def again(table: Table, address: str) -> None:
    """Pages and files asked for again."""
    for path, bar in (
        ("builds/bittern/layout", 50),
        ("builds/bittern/prove/car.csv", 50),
        ("builds/bittern/cases/heat", 50),
        ("builds/bittern/cases/curves", 50),
        ("", 50),
    ):
        get(address, path)
        taken = [wall(lambda p=path: get(address, p)) for _ in range(7)]  # type: ignore[misc]
        table.time(f"{path or 'the bench'} again", taken, bar)


def keypress(table: Table, address: str) -> None:
    """From Enter in a field of Circuit to the frame in which the drawing is new, in Chromium."""
    from playwright.sync_api import sync_playwright

    with sync_playwright() as playwright:
        chromium = playwright.chromium.launch(
            executable_path=shutil.which("chromium"),
            args=["--no-sandbox", "--disable-gpu", "--disable-background-networking"],
        )
        page = chromium.new_page(viewport={"width": 1280, "height": 800}, bypass_csp=True)
        page.goto(address + "builds/bittern/circuit")
        page.evaluate(
            """() => { window.took = []; let pressed = 0;
            document.addEventListener("keydown", (e) => { if (e.key === "Enter") pressed = performance.now(); }, true);
            new MutationObserver(() => { if (pressed) { const since = pressed; pressed = 0; requestAnimationFrame(() => setTimeout(() => window.took.push(performance.now() - since))); } })
              .observe(document.getElementById("drawing"), { childList: true, subtree: true }); }"""
        )
        page.wait_for_load_state("networkidle")
        for i in range(20):
            page.locator("#power_kw").fill(f"{600 + 3 * i} hp")
            page.locator("#power_kw").press("Enter")
            page.wait_for_function(f"window.took.length > {i}")
            page.wait_for_load_state("networkidle")
        taken = page.evaluate("window.took")
        chromium.close()
    table.time("Enter to the drawing new, in the browser", taken, 100)


def many_builds(table: Table) -> None:
    """The bench with 250 to 5,000 builds."""
    made = [dump(b) for b in demo_builds().values()]
    sizes, taken = [250, 1000, 5000], list[float]()
    with tempfile.TemporaryDirectory() as folder:
        database, there = Path(folder) / "demo.sqlite", 0
        for number in sizes:
            with db.opened(database) as connection:
                for i in range(there, number):
                    builds.create(connection, f"Build {i}", made[i % len(made)], "laid")
            there = number
            process, app = start(Path(folder))
            try:
                for slug in re.findall(r'data-waits="([^"]+)"', get(app.address).decode()):
                    get(app.address, f"builds/{slug}/place")
                taken.append(statistics.median(wall(lambda: get(app.address)) for _ in range(9)))  # noqa: B023
            finally:
                stop(process)
    table.time("the bench with 5,000 builds", taken[-1:], 350)
    table.add("growth with builds, 250 to 5,000", exponent(sizes, taken), 1.2, "")


def long_log(table: Table) -> None:
    """Prove and its record with ten thousand entries in the log; and how that grows."""
    sizes, taken, sheet = [100, 1000, 10_000], list[float](), list[float]()
    with tempfile.TemporaryDirectory() as folder:
        process, app = start(Path(folder))
        stop(process)
        there, bytes_of = 0, 0
        for number in sizes:
            with db.opened(Path(folder) / "demo.sqlite") as connection:
                row = builds.find(connection, "curlew")
                assert row is not None
                for i in range(there, number):
                    text = entry_text(Note(note=f"note {i}", by="A"))
                    logs.add(connection, row["id"], "note", text, entry_hash)
            there = number
            process, app = start(Path(folder))
            try:
                for path, out in (("prove", taken), ("prove/record", sheet)):
                    get(app.address, f"builds/curlew/{path}")
                    out.append(
                        statistics.median(
                            wall(lambda p=path: get(app.address, f"builds/curlew/{p}"))  # type: ignore[misc]  # noqa: B023
                            for _ in range(5)
                        )
                    )
                bytes_of = len(get(app.address, "builds/curlew/prove/record"))
            finally:
                stop(process)
    table.time("Prove with 10,000 entries", taken[-1:], 40)
    table.time("its record", sheet[-1:], None)
    table.add("bytes of that", bytes_of / 1e6, 0.5, "MB")
    table.add("growth of Prove with entries", exponent(sizes, taken), 1.2, "")
