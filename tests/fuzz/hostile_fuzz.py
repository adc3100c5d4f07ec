"""Twenty thousand requests that no page would send. `hostile_fuzz.py [first seed [last]]`, a
thousand requests a seed, each on a database of its own.
"""

import sys
import tempfile
import time
from collections import Counter
from pathlib import Path
from random import Random

sys.path.insert(0, str(Path(__file__).parents[1] / "kit"))

from hostile import Visitor

from tall_heron.web import create_app
from tall_heron.web.server import add_demo

EACH = 1000


def main() -> None:
    first, last = (int(x) for x in (*sys.argv[1:], *("0", "20")[len(sys.argv) - 1 :]))
    failed, begin, counts = 0, time.monotonic(), Counter[int]()
    for seed in range(first, last):
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "demo.sqlite"
            add_demo(file)
            app = create_app(file)
            app.config["PROPAGATE_EXCEPTIONS"] = False
            visitor = Visitor(app, Random(seed))
            for _ in range(EACH):
                visitor.once()
            app.extensions["connections"].close()
        counts.update(visitor.counts)
        failed += len(visitor.wrong)
        for wrong in visitor.wrong[:40]:
            print(f"seed {seed}: {wrong}", flush=True)
    answered = ", ".join(f"{n} × {code}" for code, n in sorted(counts.items()))
    print(
        f"{EACH * (last - first)} hostile requests, seeds {first} to {last - 1}: {failed} wrong; {answered}; {time.monotonic() - begin:.0f} s"
    )
    sys.exit(failed > 0)


if __name__ == "__main__":
    main()
