"""Thousands of made-up circuits: every way of solving agrees, every law holds, every failure names a part. `fuzz.py [first [last]]`."""

import sys
import time
from pathlib import Path
from random import Random

sys.path.insert(0, str(Path(__file__).parents[1] / "kit"))

from agreement import LEFT, disagreements
from made_up import circuit

from tall_heron.core.document.build import validate


def main() -> None:
    first, last = (int(x) for x in (*sys.argv[1:], *("0", "5000")[len(sys.argv) - 1 :]))
    begin, bad, left, driven = time.monotonic(), 0, 0, 0
    for seed in range(first, last):
        wrong, closer = disagreements(validate(circuit(Random(seed))))
        driven += closer
        left += LEFT in wrong
        wrong = [x for x in wrong if x != LEFT]
        if wrong:
            bad += 1
            print(f"circuit {seed}: {'; '.join(wrong[:3])}", flush=True)
    print(f"circuits {first} to {last - 1}: {bad} disagree; {left} left to newton.py by the program of their shape; {driven} driven to a residual of 1e-12; {time.monotonic() - begin:.0f} s")
    sys.exit(bad > 0 or left > 0.01 * (last - first))


if __name__ == "__main__":
    main()
