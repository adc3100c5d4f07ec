"""Documents of which one leaf is odd, stored as if an older or another hand had: each leaf of each
demo may be any of twenty values. No page of such a build, of which some are asked, answers with a fault of ours or shows one,
and every page of every other build answers. `spoilt_fuzz.py [first seed [last]]`, forty documents
a seed, each seed on a database of its own; the whole is four hundred seeds.
"""

import json
import re
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Iterator
from copy import deepcopy
from pathlib import Path
from random import Random
from typing import Any

sys.path.insert(0, str(Path(__file__).parents[1] / "kit"))

from hostile import NEVER, TAGS

from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.document.build import dump, load
from tall_heron.core.editing.demo import demo_builds
from tall_heron.store import builds, db
from tall_heron.web import create_app
from tall_heron.web.server import add_demo

EACH, SEEDS = 40, 400
SOME = 10  # of the pages of one that is read
GONE = object()
ODD: tuple[Any, ...] = (
    GONE, None, True, "", "x" * 5000, "\x00", "\n[PIPES]\n", "<b>'\"", "=1+1", "💧", [], {}, 0, -1, 1e-300, 1e300,
    10**30, -0.5, 1e6, "1e3",
)  # fmt: skip
PAGES = (
    "brief", "layout", "circuit", "size", "cases", "cases/curves", "cases/heat", "cases/failures", "cases/run",
    "route", "route/paper", "hoses", "hoses/buy", "wiring", "prove", "prove/log", "history", "sheet", "place",
    "marks", "ladder", "build.json", "build.zip", "circuit.inp", "cut-list.csv", "buy-list.csv", "buy-list.xlsx",
    "hose-order.csv", "loom.csv", "plate.dxf", "route.dxf", "route-points.csv", "prove/upkeep.ics", "prove/record.json",
)  # fmt: skip
OTHERS = ("circuit", "hoses", "route", "wiring", "cases", "prove", "place")


def leaves(data: Any, way: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    """The way to each leaf of a document."""
    if isinstance(data, dict | list):
        for key, value in data.items() if isinstance(data, dict) else enumerate(data):
            yield from leaves(value, (*way, key))
    else:
        yield way


def spoilt(data: Any, way: tuple[Any, ...], value: Any) -> Any:
    """A document with a leaf changed, or taken out."""
    out = deepcopy(data)
    at = out
    for key in way[:-1]:
        at = at[key]
    if value is GONE:
        del at[way[-1]]
    else:
        at[way[-1]] = value
    return out


class Spoiler:
    """A store with the demo builds, and spoilt ones beside them."""

    def __init__(self, folder: Path, rnd: Random) -> None:
        self.file, self.rnd = folder / "demo.sqlite", rnd
        add_demo(self.file)
        self.app = create_app(self.file)
        self.app.config["PROPAGATE_EXCEPTIONS"] = False
        self.client = self.app.test_client()
        self.demo = {n: json.loads(dump(b)) for n, b in demo_builds(wired=True).items()}
        self.ways = {n: list(leaves(d)) for n, d in self.demo.items()}
        self.counts, self.wrong = Counter[str](), list[str]()

    def once(self) -> None:
        """One spoilt document, looked at from everywhere."""
        name = self.rnd.choice(list(self.demo))
        way, value = self.rnd.choice(self.ways[name]), self.rnd.choice(ODD)
        text = json.dumps(spoilt(self.demo[name], way, value))
        what = f"{name}.{'.'.join(str(k) for k in way)} = {'nothing' if value is GONE else repr(value)[:30]}"
        try:
            load(text)
        except BuildErrors:
            self.counts["refused"] += 1
            pages = ("circuit", "hoses", "place", "history", "build.json")
        else:
            self.counts["read"] += 1
            pages = tuple(self.rnd.sample(PAGES, SOME))
        with db.opened(self.file) as connection:
            slug = builds.create(connection, "spoilt", text, "Begun")
        for page in pages:
            self.look(f"/builds/{slug}/{page}", what)
        if self.rnd.random() < 0.1:
            self.look("/", what, whole=True)
        other = self.rnd.choice([n for n in self.demo if n != name])
        self.look(f"/builds/{other}/{self.rnd.choice(OTHERS)}", what, whole=True)

    def look(self, path: str, what: str, whole: bool = False) -> None:
        """A page; where it must be `whole`, nothing but all of it will do."""
        answer = self.client.get(path)
        self.counts[str(answer.status_code)] += 1
        bad = answer.status_code >= 500 or (whole and answer.status_code != 200)
        shown = TAGS.sub(" ", answer.text) if answer.mimetype == "text/html" else ""
        fault = re.search(NEVER, shown)
        if bad or fault:
            around = shown[max(fault.start() - 40, 0) : fault.end() + 40] if fault else ""
            self.wrong.append(f"{what}: {path} {answer.status_code} {' '.join(around.split())}")
        answer.close()


def main() -> None:
    first, last = (int(x) for x in (*sys.argv[1:], *("0", str(SEEDS))[len(sys.argv) - 1 :]))
    begin, counts, failed = time.monotonic(), Counter[str](), 0
    for seed in range(first, last):
        with tempfile.TemporaryDirectory() as folder:
            spoiler = Spoiler(Path(folder), Random(seed))
            for _ in range(EACH):
                spoiler.once()
            spoiler.app.extensions["connections"].close()
        counts.update(spoiler.counts)
        failed += len(spoiler.wrong)
        for wrong in spoiler.wrong:
            print(f"seed {seed}: {wrong}", flush=True)
    said = ", ".join(f"{n} × {what}" for what, n in sorted(counts.items()))
    print(
        f"{EACH * (last - first)} spoilt documents, seeds {first} to {last - 1}: {failed} wrong; {said}; {time.monotonic() - begin:.0f} s"
    )
    sys.exit(failed > 0)


if __name__ == "__main__":
    main()
