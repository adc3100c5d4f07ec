"""The one root finder: where a rising measure crosses zero."""

import math
from collections.abc import Callable

STEPS = 80
WIDER = (1.1, 1.3, 2.0, 4.0)  # times, how a bracket grows from its guess; then to its end


def bracketed_root(
    measure: Callable[[float], float],
    low: float,
    high: float,
    close: float = 1e-7,
    ends: tuple[float, float] | None = None,
) -> float:
    """The largest x known to have measure(x) <= 0 between `low`, where it is not above zero, and
    `high`, where it is; the bracket is closed to a share `close` of x. False position, each end's
    weight halved when it stays (Illinois; Dowell and Jarratt, BIT 11, 1971), and halving where that
    closes in too slowly or an end is infinite. `ends` are the measures at both ends, where they are
    known.

    >>> round(bracketed_root(lambda x: x * x - 2, 0.0, 2.0), 6)
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


def expanding_root(
    measure: Callable[[float], float], guess: float, least: float, most: float, close: float
) -> float:
    """last_below from a guess, for measures that cost much: the bracket grows from the guess until
    it holds the crossing, toward `least` and `most`, both above zero. 0.0 where the measure is
    above zero at `least`; infinite where it is not at `most`.

    >>> round(expanding_root(lambda x: x - 3, 2.9, 0.1, 10, 1e-9), 6), expanding_root(lambda x: 1, 1, 0.1, 10, 1e-3), expanding_root(lambda x: -1, 1, 0.1, 10, 1e-3)
    (3.0, 0.0, inf)
    """
    low = high = min(max(guess, least), most)
    at_low = at_high = measure(low)
    for times in (1 + close, *WIDER, math.inf):
        if at_low > 0:
            if low <= least:
                return 0.0
            high, at_high = low, at_low
            low = max(guess / times, least)
            at_low = measure(low)
        elif at_high <= 0:
            if high >= most:
                return math.inf
            low, at_low = high, at_high
            high = min(guess * times, most)
            at_high = measure(high)
        else:
            break
    if at_low > 0 or at_high <= 0:
        return 0.0 if at_low > 0 else math.inf
    return bracketed_root(measure, low, high, close, (at_low, at_high))
