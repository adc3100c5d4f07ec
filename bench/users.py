"""Fifty builders at once, each thinking ten seconds before each page and each edit, on builds of
their own and on a shared one: no edit lost, and how long pages and edits take.

`users.py [users [seconds]]`; the application runs in a process of its own, as `tall-heron demo`
starts it. `bench.py users`: twenty, alone and beside connections that say nothing, stop in the
middle, or send a letter at a time.
"""

import json
import re
import socket
import statistics
import sys
import tempfile
import threading
import time
import urllib.error
import urllib.parse
import urllib.request
from collections.abc import Sequence
from contextlib import ExitStack
from http.cookiejar import CookieJar
from pathlib import Path
from random import Random
from typing import TypeVar

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "tests/kit"))

from rows import LOOP_MS, Table  # noqa: E402
from running import start, stop  # noqa: E402

THINK, SHARED = 10.0, "curlew"
IN_A_CROWD, CROWD_S = 20, 60.0
IDLE, HALF_SENT, SLOW = 500, 200, 50
WAIT_MS = 300.0  # that 19 of 20 pages and edits take at most


class Builder:
    """One browser: it looks at pages and types lengths, on a build of its own and now and then on
    the shared one.
    """

    def __init__(self, address: str, number: int) -> None:
        self.address, self.rnd, self.number = address.rstrip("/"), Random(number), number
        self.open = urllib.request.build_opener(
            urllib.request.HTTPCookieProcessor(CookieJar())
        ).open
        self.pages: list[float] = []
        self.edits: list[float] = []
        self.tables: list[float] = []
        self.kept: list[tuple[str, str, float]] = []
        self.failed: list[str] = []
        self.own = ""

    def get(self, path: str, times: list[float] | None = None) -> str:
        """A page, timed; a page whose table of swaps comes later asks for it, as its script does."""
        begin = time.perf_counter()
        with self.open(self.address + path, timeout=60) as answer:
            text: str = answer.read().decode()
        (self.pages if times is None else times).append(time.perf_counter() - begin)
        wants = re.search(r'id="swaps" data-part="([^"]+)"></div>', text)
        if wants and times is None:
            self.get(
                f"{path.split('?')[0].rpartition('/')[0]}/swaps?part={wants[1]}&case=peak&page={'hoses' if '/hoses' in path else 'circuit'}",
                self.tables,
            )
        return text

    def think(self) -> None:
        """Ten seconds, more or less."""
        time.sleep(self.rnd.expovariate(1 / THINK))

    def begin(self) -> None:
        """A build of its own, from a line."""
        token = re.search(r'name="csrf"[^>]*content="([^"]+)"', self.get("/"))
        assert token
        data = f"csrf_token={token[1]}&name=Knot+{self.number}:+V8+{300 + self.number}+hp".encode()
        with self.open(
            urllib.request.Request(self.address + "/builds", data=data), timeout=60
        ) as answer:
            self.own = answer.geturl().split("/")[4]

    def act(self) -> None:
        """Look at a hose, type a length; where somebody was quicker, look again and type it on top."""
        slug = SHARED if self.rnd.random() < 0.2 else self.own
        hose, mm = self.rnd.choice(["H2", "H3", "H4"]), round(self.rnd.uniform(300, 4000), 3)
        for _ in range(8):
            page = self.get(f"/builds/{slug}/hoses?hose={hose}")
            token, head = (
                re.search(r'name="csrf" content="([^"]+)"', page),
                re.search(r'data-head="(\d+)"', page),
            )
            assert token
            assert head
            self.think()
            body = json.dumps(
                {
                    "head": int(head[1]),
                    "page": "hoses",
                    "hose": hose,
                    "field": "length",
                    "text": f"{mm} mm",
                }
            ).encode()
            headers = {
                "X-CSRFToken": token[1],
                "Content-Type": "application/json",
                "Accept": "application/json",
            }
            begin = time.perf_counter()
            try:
                with self.open(
                    urllib.request.Request(
                        f"{self.address}/builds/{slug}/hose", data=body, headers=headers
                    ),
                    timeout=60,
                ) as answer:
                    answer.read()
            except urllib.error.HTTPError as error:
                if error.code != 409:
                    raise
                continue
            self.edits.append(time.perf_counter() - begin)
            self.kept.append((slug, hose, mm))
            return

    def run(self, until: float) -> None:
        """Acts with thought between them."""
        time.sleep(self.rnd.uniform(0, THINK))
        while time.monotonic() < until:
            try:
                self.act()
                self.think()
                self.get(
                    f"/builds/{self.own}/{self.rnd.choice(['circuit', 'brief', 'hoses', 'history'])}"
                )
            except (urllib.error.URLError, AssertionError, OSError) as error:
                self.failed.append(repr(error))
            self.think()


def at_work(builders: Sequence[Builder], seconds: float) -> None:
    """All of them for a while."""
    until = time.monotonic() + seconds
    threads = [threading.Thread(target=b.run, args=(until,)) for b in builders]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()


Who = TypeVar("Who", bound=Builder)


def begun(address: str, number: int, who: type[Who]) -> list[Who]:
    """Builders, each with a build of its own."""
    builders = [who(address, i) for i in range(number)]
    for b in builders:
        b.begin()
        b.pages.clear()
    return builders


def lost(folder: Path, builders: Sequence[Builder]) -> int:
    """How many acknowledged edits no revision holds."""
    return sum(not _stored(folder, kept) for b in builders for kept in b.kept)


def main() -> None:
    users, seconds = (int(x) for x in (*sys.argv[1:], *("50", "90")[len(sys.argv) - 1 :]))
    with tempfile.TemporaryDirectory() as folder:
        process, app = start(Path(folder))
        try:
            builders = begun(app.address, users, Builder)
            at_work(builders, seconds)
            missing = lost(Path(folder), builders)
        finally:
            stop(process)
    timed = {
        name: sorted(x for b in builders for x in getattr(b, name))
        for name in ("pages", "edits", "tables")
    }
    failed = [x for b in builders for x in b.failed]
    for name, times in timed.items():
        print(
            f"{users} builders, {name}: {len(times)}, median {1000 * statistics.median(times):.0f} ms, 95 % under {1000 * times[int(0.95 * len(times))]:.0f} ms, longest {1000 * times[-1]:.0f} ms"
        )
    print(
        f"{sum(len(b.kept) for b in builders)} edits acknowledged, {missing} lost; {len(failed)} requests failed {failed[:3] if failed else ''}"
    )
    sys.exit(bool(missing or failed))


def waited(builders: Sequence[Builder]) -> float:
    """What 19 of 20 pages and edits took at most [ms] since this was asked last."""
    times = [x for b in builders for x in (*b.pages, *b.edits)]
    for b in builders:
        b.pages.clear()
        b.edits.clear()
    return 1000 * statistics.quantiles(times, n=20)[-1]


def drip(lines: Sequence[socket.socket], done: threading.Event) -> None:
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
        builders = begun(app.address, IN_A_CROWD, Builder)
        at_work(builders, CROWD_S)
        quiet = waited(builders)
        table.add(
            f"{IN_A_CROWD} builders, 19 of 20 pages and edits within",
            quiet * LOOP_MS / table.before,
            WAIT_MS,
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
        threading.Thread(target=drip, args=(lines[-SLOW:], done), daemon=True).start()
        at_work(builders, CROWD_S)
        table.add(
            f"the same beside {len(lines)} idle, half-sent and slow, over alone",
            waited(builders) / quiet,
            2.0,
        )
        kept = sum(len(b.kept) for b in builders)
        table.add(f"lost of {kept} edits", lost(Path(folder), builders), 0, "")
        table.add("requests that failed", sum(len(b.failed) for b in builders), 0, "")


def _stored(folder: Path, kept: tuple[str, str, float]) -> bool:
    """Whether a revision holds what was acknowledged."""
    import sqlite3

    slug, hose, mm = kept
    with sqlite3.connect(f"file:{folder / 'demo.sqlite'}?mode=ro", uri=True) as connection:
        rows = connection.execute(
            "SELECT 1 FROM revision r JOIN build b ON b.id = r.build WHERE b.slug = ? AND r.act LIKE ? LIMIT 1",
            (slug, f"{hose}: {mm} mm face%"),
        ).fetchall()
    return bool(rows)


if __name__ == "__main__":
    main()
