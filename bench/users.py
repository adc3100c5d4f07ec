"""Many at once: builders who read and change with time to think between, alone and beside
connections that say nothing, stop in the middle, or send a letter at a time.
"""

import socket
import statistics
import tempfile
import threading
import time
import urllib.parse
from contextlib import ExitStack
from pathlib import Path
from random import Random

from rows import LOOP_MS, Table
from running import start, stop
from served import SLUGS, VIEWS, Browser

from tall_heron.store import builds, db

USERS, THINK_S, SECONDS = 20, 10.0, 60.0
IDLE, HALF_SENT, SLOW = 500, 200, 50
WAIT_P95_MS = 300.0  # of a page or an edit


def work(
    browser: Browser, rnd: Random, first: int, until: float, waits: dict[str, list[float]]
) -> int:
    """One builder until a moment; how many changes were made."""
    made = 0
    while time.monotonic() < until:
        time.sleep(min(rnd.expovariate(1 / THINK_S), max(until - time.monotonic(), 0.0)))
        begin = time.perf_counter()
        kind = rnd.choice(("page", "page", "edit"))
        if kind == "page":
            browser.get(f"builds/{browser.slug}/{rnd.choice(VIEWS)}")
        else:
            made += 1
            browser.edit(f"{first + made} hp")
        waits[kind].append((time.perf_counter() - begin) * 1000)
    return made


def shift(browsers: list[Browser], seed: int) -> tuple[dict[str, list[float]], int]:
    """All builders for a while: how long each waited [ms], and how many changes they made."""
    waits: dict[str, list[float]] = {"page": [], "edit": []}
    made, until = [], time.monotonic() + SECONDS
    threads = [
        threading.Thread(
            target=lambda b=b, i=i: made.append(work(b, Random(seed + i), seed, until, waits))
        )
        for i, b in enumerate(browsers)
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return waits, sum(made)


def p95(waits: dict[str, list[float]]) -> float:
    """What 19 of 20 waited at most [ms]."""
    return statistics.quantiles([x for kind in waits.values() for x in kind], n=20)[-1]


def drip(lines: list[socket.socket], done: threading.Event) -> None:
    """A letter of a request's head on each line every second."""
    while not done.wait(1.0):
        for line in lines:
            line.send(b"x")


def crowd(table: Table) -> None:
    """Builders alone, and beside connections that wait for nothing."""
    with tempfile.TemporaryDirectory() as folder, ExitStack() as held:
        process, app = start(Path(folder))
        held.callback(stop, process)
        place = urllib.parse.urlsplit(app.address)
        browsers = [Browser(app.address, SLUGS[i % len(SLUGS)]) for i in range(USERS)]
        quiet, made = shift(browsers, 200)
        table.add(
            f"{USERS} builders, 95 of 100 pages and edits within",
            p95(quiet) * LOOP_MS / table.before,
            WAIT_P95_MS,
            "ms",
        )
        lines = []
        for i in range(IDLE + HALF_SENT + SLOW):
            line = held.enter_context(socket.create_connection((place.hostname, place.port)))
            if i >= IDLE:
                line.sendall(b"GET / HTTP/1.1\r\nHost: 127.0.0.1\r\nX-Slow: ")
            lines.append(line)
        done = threading.Event()
        held.callback(done.set)
        slow = threading.Thread(target=drip, args=(lines[-SLOW:], done), daemon=True)
        slow.start()
        beside, more = shift(browsers, 300)
        table.add(
            f"the same beside {len(lines)} idle, half-sent and slow, over alone",
            p95(beside) / p95(quiet),
            2.0,
        )
        with db.opened(app.folder / "demo.sqlite") as connection:
            kept = sum(
                len(builds.revisions(connection, row["id"])) - 1
                for b in browsers
                if (row := builds.find(connection, b.slug)) is not None
            )
        table.add(f"lost of {made + more} changes", made + more - kept, 0, "")
