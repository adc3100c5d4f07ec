"""How fast the application is: rows beside their bars, in one run; exit code 1 where one is over.

`bench.py [NAME...]`: all of it, or the groups named: epanet, engine, served, users,
growth, large.
"""

import os
import sys
from collections.abc import Callable
from pathlib import Path

ROOT = Path(__file__).parents[1]
sys.path[:0] = [str(ROOT / "tests/kit"), str(ROOT / "bench")]

import against_epanet  # noqa: E402
import engine  # noqa: E402
import large  # noqa: E402
import served  # noqa: E402
import users  # noqa: E402
from rows import LOOP_MS, Table  # noqa: E402

GROUPS: dict[str, tuple[Callable[[Table], None], ...]] = {
    "epanet": (against_epanet.against_the_library,),
    "engine": (
        engine.cases,
        engine.sizing,
        engine.larger_shelf,
        engine.ways,
        engine.fuel_that_runs_about,
    ),
    "served": (served.server,),
    "users": (users.crowd,),
    "growth": (engine.growing, engine.replayed, served.many_builds, served.long_log),
    "large": (large.large, large.at_once),
}


def main(names: list[str]) -> int:
    """Measure, print, and say whether all is within its bar."""
    unknown = set(names) - set(GROUPS)
    if unknown:
        print(f"no group is called {', '.join(sorted(unknown))}; there are {', '.join(GROUPS)}")
        return 2
    table = Table()
    print(
        f"{os.cpu_count()} cores, Python {sys.version.split()[0]}; the loop takes {table.before:.0f} ms, where the bars were set {LOOP_MS:.0f}: times are divided by {table.before / LOOP_MS:.2f}"
    )
    for name in names or list(GROUPS):
        for measure in GROUPS[name]:
            measure(table)
    print(f"{len(table.rows)} rows, {len(table.over)} over their bar")
    return 1 if table.over else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
