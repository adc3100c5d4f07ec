"""Thousands of made-up circuits: every way of solving agrees, every law holds, every failure names
a part. `fuzz.py [first [last]]`.
"""

import sys
import time
from collections.abc import Callable
from pathlib import Path
from random import Random
from typing import Any

sys.path.insert(0, str(Path(__file__).parents[1] / "kit"))

from agreement import LEFT, disagreements
from laws import broken
from made_up import circuit, odd

from tall_heron.core.document.build import validate

KINDS: dict[str, Callable[[Random], dict[str, Any]]] = {"usual": circuit, "odd": odd}


def main() -> None:
    first, last = (int(x) for x in (*sys.argv[1:], *("0", "5000")[len(sys.argv) - 1 :]))
    failed = False
    for kind, make in KINDS.items():
        begin, bad, left, driven, unsolved = time.monotonic(), 0, 0, 0, 0
        for seed in range(first, last):
            build = validate(make(Random(seed)))
            wrong, closer = disagreements(build)
            against, solved = broken(build)
            driven += closer
            unsolved += not solved
            left += LEFT in wrong
            wrong = [x for x in wrong if x != LEFT] + against
            if wrong:
                bad += 1
                print(f"{kind} circuit {seed}: {'; '.join(wrong[:3])}", flush=True)
        print(
            f"{kind} circuits {first} to {last - 1}: {bad} wrong; {unsolved} cannot be solved and say why; {left} left to newton.py by the program of their shape;"
            f" {driven} driven to a residual of 1e-12; {time.monotonic() - begin:.0f} s"
        )
        failed = failed or bad > 0 or left > 0.01 * (last - first)
    sys.exit(failed)


if __name__ == "__main__":
    main()
