"""The one root finder: where a rising measure crosses zero."""

import math
from collections.abc import Callable

STEPS = 80


def last_below(measure: Callable[[float], float], low: float, high: float, close: float = 1e-7, ends: tuple[float, float] | None = None) -> float:
    """The largest x known to have measure(x) <= 0 between `low`, where it is not above zero, and `high`, where it is; the bracket is closed to a share
    `close` of x. False position, each end's weight halved when it stays (Illinois; Dowell and Jarratt, BIT 11, 1971), and halving where that closes in
    too slowly or an end is infinite. `ends` are the measures at both ends, where they are known.

    >>> round(last_below(lambda x: x * x - 2, 0.0, 2.0), 6)
    1.414214
    """
    at_low, at_high = ends or (measure(low), measure(high))
    side, width = 0, high - low
    for step in range(STEPS):
        if high - low <= close * abs(high):
            break
        finite = math.isfinite(at_low) and math.isfinite(at_high) and at_high > at_low
        x = low - at_low * (high - low) / (at_high - at_low) if finite else (low + high) / 2
        if step % 4 == 3:
            if high - low > width / 4:
                x = (low + high) / 2
            width = high - low
        # A hair past the nearer end, so that two steps close the bracket once it is narrow.
        hair = 0.4 * close * abs(high)
        x = min(max(x, low + hair), high - hair)
        value = measure(x)
        if value <= 0:
            low, at_low = x, value
            at_high /= 2 if side < 0 else 1
            side = -1
        else:
            high, at_high = x, value
            at_low /= 2 if side > 0 else 1
            side = 1
    return low
