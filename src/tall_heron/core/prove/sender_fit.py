"""A level sender as it was poured full: a curve through its readings that never turns back, what
the gauge is told, how fine that is, where fuel ends that can be used and where the reserve begins.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from tall_heron.core.document.wiring import Sender
from tall_heron.core.electrics.sender import divided
from tall_heron.core.physics.slosh import Array

FINE = 512  # places along the curve at which it is read back
LEAST = 3  # pours that make a curve


@dataclass(frozen=True)
class SenderMark:
    """A level: volume in the tank [m3], as a share of what was poured in all [-], what the sender
    has [ohm], what the input reads [V] and counts, and how much one count is there [m3].
    """

    volume: float
    share: float
    ohm: float
    volts: float
    count: int
    step: float


@dataclass(frozen=True)
class SenderFit:
    """Volumes [m3] and ohms as poured and as `fitted`, which never turn back; the gauge's table
    from empty to full, the marks of unusable fuel and reserve; how far a straight line between the
    ends would be off at most [m3, signed: below zero it reads low] and where, how far the fit is
    from what was read [ohm], and what is wrong, in words.
    """

    volumes: tuple[float, ...]
    read: tuple[float, ...]
    fitted: tuple[float, ...]
    table: tuple[SenderMark, ...]
    unusable: SenderMark
    reserve: SenderMark
    line_off: float
    line_at: float
    residual: float
    coarsest: float
    troubles: tuple[str, ...]
    curve: tuple[Array, Array]

    def ohm_at(self, volume: float) -> float:
        """What the sender has at a volume [ohm]."""
        return float(np.interp(volume, self.curve[0], self.curve[1]))

    def volume_at(self, ohm: float) -> float:
        """The volume at a resistance [m3]: the middle of all that would read so."""
        v, o = self.curve
        order = 1 if o[-1] >= o[0] else -1
        low, high = (
            int(np.searchsorted(order * o, order * ohm, side=side)) for side in ("left", "right")
        )
        if low == high:  # between two places
            i = min(max(low, 1), len(v) - 1)
            a, b = o[i - 1], o[i]
            w = (ohm - a) / (b - a) if b != a else 0.5
            return float(v[i - 1] + min(max(w, 0.0), 1.0) * (v[i] - v[i - 1]))
        return float((v[low] + v[high - 1]) / 2)


def ohms(volts: float, sender: Sender) -> float:
    """The resistance behind a voltage in the divider [ohm]. Raises ValueError for a voltage that no
    sender makes.

    >>> round(ohms(3.529411765, Sender()), 6)
    240.0
    """
    if not 0 <= volts < sender.supply_v:
        raise ValueError(
            f"{volts:g} V cannot be read with {sender.supply_v:g} V on the pull-up; readings lie between 0 and less than that"
        )
    return volts * sender.pull_up_ohm / (sender.supply_v - volts)


def fit_sender(
    steps: Sequence[tuple[float, float]], sender: Sender, unusable: float = 0.0
) -> SenderFit:
    """Fit what was read [ohm] at volumes [m3]. Raises ValueError for too few pours or none that
    differ.
    """
    from scipy.interpolate import PchipInterpolator  # only who pours a tank full waits for them
    from scipy.optimize import isotonic_regression

    rows: dict[float, list[float]] = {}
    for volume, ohm in steps:
        rows.setdefault(volume, []).append(ohm)
    if len(rows) < LEAST:
        raise ValueError(f"{len(rows)} levels make no curve; pour at least {LEAST} times")
    volumes = np.array(sorted(rows))
    read = np.array([float(np.mean(rows[v])) for v in volumes])
    weights = np.array([float(len(rows[v])) for v in volumes])
    rising = float(np.polyfit(volumes - volumes.mean(), read, 1, w=np.sqrt(weights))[0]) >= 0
    fitted = np.asarray(isotonic_regression(read, weights=weights, increasing=rising).x)
    fine = np.linspace(volumes[0], volumes[-1], FINE)
    fine = np.unique(np.concatenate([fine, volumes]))
    curve = np.asarray(PchipInterpolator(volumes, fitted)(fine))
    curve = np.maximum.accumulate(curve) if rising else np.minimum.accumulate(curve)
    troubles = []
    residual = float(np.abs(read - fitted).max())
    if residual > 0.02 * max(float(np.ptp(fitted)), 1e-9):
        worst = int(np.argmax(np.abs(read - fitted)))
        troubles.append(
            f"The reading at {1000 * volumes[worst]:.1f} L reverses by {residual:.1f} Ω: the float sticks, or it was read too soon."
        )
    if float(np.ptp(fitted)) <= 0:
        troubles.append(
            "It reads the same empty and full: the float does not move, or the wire is off."
        )
    count_v = sender.range_v / 2**sender.bits
    volts = np.array([divided(float(o), sender.pull_up_ohm, sender.supply_v) for o in curve])
    counts = np.minimum((volts / count_v).astype(int), 2**sender.bits - 1)

    def mark(volume: float) -> SenderMark:
        ohm = float(np.interp(volume, fine, curve))
        v = divided(ohm, sender.pull_up_ohm, sender.supply_v)
        count = min(int(v / count_v), 2**sender.bits - 1)
        same = np.flatnonzero(np.abs(counts - count) <= 0)
        i = int(np.argmin(np.abs(fine - volume)))
        low, high = max(i - 2, 0), min(i + 2, len(fine) - 1)
        slope = abs(volts[high] - volts[low]) / (fine[high] - fine[low])
        wide = float(fine[same[-1]] - fine[same[0]]) if len(same) else 0.0
        return SenderMark(
            volume,
            volume / float(volumes[-1]) if volumes[-1] > 0 else 0.0,
            ohm,
            v,
            count,
            float(max(count_v / slope if slope > 0 else fine[-1] - fine[0], wide)),
        )

    top = float(volumes[-1])
    table = tuple(mark(float(volumes[0]) + (top - float(volumes[0])) * i / 10) for i in range(11))
    straight = fitted[0] + (fitted[-1] - fitted[0]) * (fine - fine[0]) / (fine[-1] - fine[0])
    back = (
        np.interp(curve if rising else -curve, straight if rising else -straight, fine)
        if np.ptp(fitted) > 0
        else fine
    )
    off = back - fine
    at = int(np.argmax(np.abs(off)))
    none = min(max(unusable, float(volumes[0])), top)
    if float(volts.max()) > sender.range_v:
        troubles.append(
            f"{volts.max():.2f} V is more than the {sender.range_v:g} V that the input reads: the level is cut off there."
        )
    return SenderFit(
        tuple(volumes.tolist()),
        tuple(read.tolist()),
        tuple(fitted.tolist()),
        table,
        mark(none),
        mark(none + sender.reserve * (top - none)),
        float(off[at]),
        float(fine[at]),
        residual,
        max(m.step for m in table),
        tuple(troubles),
        (fine, curve),
    )
