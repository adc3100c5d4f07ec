"""A store that has grown in every way at once: how much longer its pages take than in a new one, in
one run; and much that is asked for at once.
"""

import io
import json
import re
import statistics
import tempfile
import threading
import urllib.request
import zipfile
from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path
from typing import Any

from rows import Table, wall
from running import start, stop
from served import Browser, get

from tall_heron.core.document.build import dump, load
from tall_heron.core.editing.fields import set_length
from tall_heron.core.prove.entry import File, Note, entry_hash, entry_text
from tall_heron.store import builds, db, logs

TWICE = 2.0
LARGE = {"revisions": 1000, "entries": 1000, "builds": 5000}
FULL_PAGE = dict.fromkeys(LARGE, 60)  # what one page of each shows
FILES, ROWS, AT_ONCE = 10, 100_000, 200  # files beside an entry; of a log; taken away together
PAGES = (
    "", "builds/curlew/brief", "builds/curlew/layout", "builds/curlew/circuit", "builds/curlew/cases",
    "builds/curlew/route", "builds/curlew/hoses", "builds/curlew/wiring", "builds/curlew/prove",
    "builds/curlew/prove/log", "builds/curlew/history",
)  # fmt: skip


def filled(folder: Path, revisions: int, entries: int, builds_more: int) -> None:
    """Curlew with many revisions and ten files beside each entry of its log, among many builds."""
    file = folder / "demo.sqlite"
    with db.opened(file) as connection:
        connection.execute("PRAGMA synchronous = OFF")  # only while it is filled
        row = builds.find(connection, "curlew")
        assert row is not None
        build, head = load(row["document"]), row["head"]
        hose = next(e.id for e in build.circuit.elements if e.length is not None)
        for i in range(revisions):
            changed = dump(set_length(build, hose, 500.0 + i))
            head = builds.save(connection, row["id"], head, f"{hose}: {500 + i} mm", changed)
        builds.save(connection, row["id"], head, "as it was", row["document"])
        for i in range(entries):
            files = []
            for k in range(FILES):
                data = f"{i} {k}".encode()
                sha256 = logs.keep_file(connection, file, data, "text/plain")
                files.append(
                    File(name=f"{k}.txt", sha256=sha256, media="text/plain", size=len(data))
                )
            text = entry_text(Note(note=f"note {i}", by="A", files=files))
            logs.add(connection, row["id"], "note", text, entry_hash)
        for i in range(builds_more):
            builds.create(connection, f"Build {i}", row["document"], "laid")


def pages(sizes: dict[str, int]) -> dict[str, float]:
    """What each page takes [ms] of a store of such sizes, asked for again."""
    out = {}
    with tempfile.TemporaryDirectory() as name:
        process, _ = start(Path(name))
        stop(process)
        filled(Path(name), *sizes.values())
        process, app = start(Path(name))
        try:
            for slug in re.findall(r'data-waits="([^"]+)"', get(app.address).decode()):
                get(app.address, f"builds/{slug}/place")
            for page in PAGES:
                get(app.address, page)
                out[page] = statistics.median(
                    wall(lambda p=page: get(app.address, p))  # type: ignore[misc]
                    for _ in range(7)
                )
        finally:
            stop(process)
    return out


def large(table: Table) -> None:
    """Each page of a store that has grown in every way, over one in which each page is full."""
    print(f"  {LARGE} with {FILES} files an entry, over {FULL_PAGE}")
    usual = pages(FULL_PAGE)
    for page, ms in pages(LARGE).items():
        table.add(f"{page or 'the bench'} of a large store, over usual", ms / usual[page], TWICE)


def at_once(table: Table) -> None:
    """Two loggers' files together over one after the other, and two hundred builds taken away at
    once over one after the other.
    """
    with tempfile.TemporaryDirectory() as name:
        process, app = start(Path(name))
        try:
            browsers = [Browser(app.address, slug) for slug in ("bittern", "egret")]
            text = get(app.address, "builds/bittern/prove/car.csv").decode()
            head, *rows = text.splitlines(keepends=True)
            long = [head, *rows * (ROWS // len(rows) + 1)][: ROWS + 1]
            clocked = "".join(
                line if i == 0 else f"{i / 10:.1f},{line.partition(',')[2]}"
                for i, line in enumerate(long)
            ).encode()
            sent = [kept(b, clocked) for b in browsers]
            replays = [partial(replay, b, s) for b, s in zip(browsers, sent, strict=True)]
            one = sum(wall(act) for act in replays)
            for b in browsers:
                b.edit("400 hp")  # a replay of what stood before is kept
            table.add(
                f"two logs of {ROWS:,} rows at once, over one after the other",
                wall(lambda: together(replays)) / one,
                TWICE,
            )
            taken = [partial(whole, app.address, b.slug) for b in browsers] * (AT_ONCE // 2)
            singly = sum(wall(act) for act in taken)
            table.add(
                f"{AT_ONCE} builds taken away at once, over one after the other",
                wall(lambda: together(taken)) / singly,
                TWICE,
            )
        finally:
            stop(process)


def together(acts: Sequence[Callable[[], Any]]) -> None:
    """All of them at once."""
    wrong: list[BaseException] = []

    def run(act: Callable[[], Any]) -> None:
        try:
            act()
        except BaseException as error:
            wrong.append(error)

    threads = [threading.Thread(target=run, args=(act,)) for act in acts]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    if wrong:
        raise wrong[0]


def whole(address: str, slug: str) -> None:
    """A build with its pictures, every byte of it."""
    with zipfile.ZipFile(io.BytesIO(get(address, f"builds/{slug}/build.zip"))) as box:
        assert box.testzip() is None


def kept(browser: Browser, data: bytes) -> str:
    """A logger's file, sent."""
    request = urllib.request.Request(
        f"{browser.address}builds/{browser.slug}/prove/log",
        data,
        {"X-CSRFToken": browser.token, "Content-Type": "text/csv", "Accept": "application/json"},
    )
    with browser.opener.open(request) as answer:
        return str(json.loads(answer.read())["sha256"])


def replay(browser: Browser, sha256: str) -> None:
    """It replayed, to its end."""
    job = browser.post("prove/replay", {"sha256": sha256})["job"]
    while True:
        how = json.loads(browser.get(f"builds/{browser.slug}/prove/jobs/{job}"))
        if how["over"]:
            assert how["done"], how
            return
