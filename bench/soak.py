"""Two hours of a shop's work at ten times its rate, on one application that is stopped and killed
now and then: what it holds must not grow, and nothing that was acknowledged may be lost.

`soak.py [seconds [builders]]`. A shop is five builders who do something every hundred seconds;
here are fifty. Held are memory, open files, threads and the log that SQLite writes ahead. The
application is started again every twentieth of the time, stopped and killed in turn; what is held
is compared over the second half of its longest life, which is two fifths of the time.
"""

import re
import signal
import statistics
import subprocess
import sys
import tempfile
import threading
import time
import urllib.error
import urllib.request
from pathlib import Path
from typing import NamedTuple

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "tests/kit"))

from running import start, stop  # noqa: E402
from served import VIEWS, resident_mb  # noqa: E402
from users import Builder, begun, lost  # noqa: E402

SECONDS, BUILDERS, THINK, RESTARTS = 7200.0, 50, 100.0, 12
SAMPLE = 1 / 240  # of the time
GROWS = {"memory, MB": 0.10, "open files": 0.10, "threads": 0.10, "log ahead, MB": 0.25}
AT_LEAST = {"memory, MB": 10.0, "open files": 8.0, "threads": 4.0, "log ahead, MB": 2.0}
EXPORTS = ("build.json", "cut-list.csv", "route.dxf", "loom.csv", "buy-list.csv")


class Held(NamedTuple):
    """What a process holds at a moment [s]."""

    at: float
    memory: float
    files: int
    threads: int
    log: float


class Worker(Builder):
    """A builder who looks at every station, attaches files, takes files away, and comes back after
    the application was gone.
    """

    def __init__(self, address: str, number: int) -> None:
        super().__init__(address, number)
        self.gone = 0

    def think(self) -> None:
        """Until the next thing to do."""
        time.sleep(min(self.rnd.expovariate(1 / (THINK / 4)), THINK))

    def run(self, until: float) -> None:
        """Edits, pages of all stations, files both ways."""
        time.sleep(self.rnd.uniform(0, THINK / 4))
        while time.monotonic() < until:
            try:
                chance = self.rnd.random()
                if chance < 0.4:
                    self.act()
                elif chance < 0.9:
                    self.get(f"/builds/{self.own}/{self.rnd.choice(VIEWS)}")
                elif chance < 0.95:
                    self.attach()
                else:
                    self.take()
            except urllib.error.HTTPError as error:
                self.failed.append(f"{error.code} {error.url}")
            except (urllib.error.URLError, OSError):
                self.gone += 1
            self.think()

    def attach(self) -> None:
        """A file of some kB beside the log."""
        page = self.get(f"/builds/{self.own}/prove")
        token = re.search(r'name="csrf" content="([^"]+)"', page)
        assert token
        text = "".join(f"{self.rnd.random()};{self.rnd.random()}\n" for _ in range(200))
        request = urllib.request.Request(
            f"{self.address}/builds/{self.own}/prove/file",
            data=text.encode(),
            headers={"X-CSRFToken": token[1], "Content-Type": "application/octet-stream"},
        )
        with self.open(request, timeout=120) as answer:
            answer.read()

    def take(self) -> None:
        """A file of the build."""
        with self.open(
            f"{self.address}/builds/{self.own}/{self.rnd.choice(EXPORTS)}", timeout=120
        ) as answer:
            answer.read()


def held(process: "subprocess.Popen[str]", database: Path, began: float) -> Held:
    """What the process holds now."""
    proc, log = Path(f"/proc/{process.pid}"), Path(f"{database}-wal")
    return Held(
        time.monotonic() - began,
        resident_mb(process.pid),
        len(list((proc / "fd").iterdir())),
        len(list((proc / "task").iterdir())),
        log.stat().st_size / 1e6 if log.exists() else 0.0,
    )


def lives(seconds: float) -> list[float]:
    """How long each life of the application is: one of two fifths of the time, the others alike."""
    short = 0.6 * seconds / RESTARTS
    return [short] * (RESTARTS // 2) + [0.4 * seconds] + [short] * (RESTARTS - RESTARTS // 2)


def main() -> None:
    seconds, number = (
        float(sys.argv[1]) if len(sys.argv) > 1 else SECONDS,
        int(sys.argv[2]) if len(sys.argv) > 2 else BUILDERS,
    )
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        process, app = start(folder)
        port = int(app.address.rstrip("/").rpartition(":")[2])
        database = folder / "demo.sqlite"
        builders = begun(app.address, number, Worker)
        began = time.monotonic()
        threads = [
            threading.Thread(target=b.run, args=(began + seconds,), daemon=True) for b in builders
        ]
        for thread in threads:
            thread.start()
        samples: list[Held] = []
        longest: list[Held] = []
        for i, life in enumerate(lives(seconds)):
            if i:
                if i % 2:
                    stop(process)
                else:
                    process.send_signal(signal.SIGKILL)
                    process.wait()
                process, _ = start(folder, port=port)
            samples = []
            until = time.monotonic() + life
            while time.monotonic() < until:
                time.sleep(seconds * SAMPLE)
                samples.append(held(process, database, began))
            longest = max(longest, samples, key=len)
            print(f"{samples[-1].at:7.0f} s: {samples[-1]}", flush=True)
        for thread in threads:
            thread.join(300)
        missing = lost(folder, builders)
        stop(process)
    failed = [x for b in builders for x in b.failed]
    pages = sorted(x for b in builders for x in (*b.pages, *b.edits))
    kept = sum(len(b.kept) for b in builders)
    half, most = 1000 * statistics.median(pages), 1000 * pages[int(0.95 * len(pages))]
    print(
        f"{number} builders, {seconds:.0f} s: {len(pages)} pages and edits, half within {half:.0f} ms, 19 of 20 within {most:.0f} ms;"
        f" {RESTARTS} times started again, {sum(b.gone for b in builders)} requests met nobody"
    )
    print(
        f"{kept} edits acknowledged, {missing} lost; {len(failed)} requests failed {failed[:3] if failed else ''}"
    )
    middle = len(longest) // 2
    over = False
    for i, (what, share) in enumerate(GROWS.items(), 1):
        third, fourth = (
            statistics.median(float(s[i]) for s in part)
            for part in (longest[middle : middle * 3 // 2], longest[middle * 3 // 2 :])
        )
        grows = fourth - third > max(share * third, AT_LEAST[what])
        over |= grows
        print(
            f"{what}: {longest[0][i]:.1f} at first, {third:.1f} in the third quarter, {fourth:.1f} in the last{', GROWS' if grows else ''}"
        )
    sys.exit(bool(over or missing or failed))


if __name__ == "__main__":
    main()
