"""Pump maps: pressure rise over flow at a voltage."""

from bisect import bisect_right
from dataclasses import dataclass


def monotone_slopes(x: list[float], y: list[float]) -> list[float]:
    """Slopes at the points of a shape-preserving cubic (PCHIP; Fritsch-Carlson, weighted harmonic
    mean, three-point ends).

    Args: x [any] increasing, y [any]. Returns: dy/dx at each x. Source: fritsch-carlson-1980.
    Valid: two points or more, x rising.

    >>> monotone_slopes([0.0, 1.0, 2.0], [4.0, 2.0, 0.0])
    [-2.0, -2.0, -2.0]
    """
    n = len(x)
    h = [x[i + 1] - x[i] for i in range(n - 1)]
    s = [(y[i + 1] - y[i]) / h[i] for i in range(n - 1)]
    if n == 2:
        return [s[0], s[0]]
    d = [0.0] * n
    for i in range(1, n - 1):
        if s[i - 1] * s[i] > 0:
            w1, w2 = 2 * h[i] + h[i - 1], h[i] + 2 * h[i - 1]
            d[i] = (w1 + w2) / (w1 / s[i - 1] + w2 / s[i])

    def end(h0: float, h1: float, s0: float, s1: float) -> float:
        slope = ((2 * h0 + h1) * s0 - h0 * s1) / (h0 + h1)
        if slope * s0 <= 0:
            return 0.0
        if s0 * s1 <= 0 and abs(slope) > 3 * abs(s0):
            return 3 * s0
        return slope

    d[0] = end(h[0], h[1], s[0], s[1])
    d[-1] = end(h[-1], h[-2], s[-1], s[-2])
    return d


@dataclass(frozen=True)
class PumpCurve:
    """One column of figures over flow, as cubic pieces: on piece i, value = c0 + c1 t + c2 t^2 + c3
    t^3 with t = Q - flow[i].

    Beyond both ends the curve goes on straight with its end slope (never below a tenth of the last
    piece's own).
    """

    flow: tuple[float, ...]
    pieces: tuple[tuple[float, float, float, float], ...]

    def at(self, flow: float) -> tuple[float, float]:
        """Value and slope at a flow.

        Args: flow [m3/s]. Returns: value and its slope over flow [Pa, Pa s/m3] (or amperes).
        Source: fritsch-carlson-1980.
        Valid: any flow; beyond the table the curve goes on straight, and solutions say so.

        >>> make_curve([0.0, 1.0], [4.0, 2.0], "linear").at(0.5)
        (3.0, -2.0)
        """
        i = bisect_right(self.flow, flow)
        c0, c1, c2, c3 = self.pieces[i]
        t = flow - self.flow[i - 1 if i else 0]
        return c0 + t * (c1 + t * (c2 + t * c3)), c1 + t * (2 * c2 + t * 3 * c3)


def make_curve(flow: list[float], value: list[float], interpolation: str = "pchip") -> PumpCurve:
    """A curve through points, by shape-preserving cubics or straight pieces, with a straight piece
    before and after.

    Args: flow [m3/s] increasing, value [Pa or A], interpolation [pchip or linear]. Returns: Curve.
    Source: fritsch-carlson-1980.
    Valid: two points or more; a table that rises is refused by the document.

    >>> make_curve([0.0, 1.0, 2.0], [4.0, 3.0, 0.0]).at(1.0)[0]
    3.0
    """
    n = len(flow)
    secant = [(value[i + 1] - value[i]) / (flow[i + 1] - flow[i]) for i in range(n - 1)]
    pieces: list[tuple[float, float, float, float]] = []
    slopes = monotone_slopes(flow, value)
    for i in range(n - 1):
        if interpolation == "linear":
            pieces.append((value[i], secant[i], 0.0, 0.0))
        else:
            h = flow[i + 1] - flow[i]
            c2 = (3 * secant[i] - 2 * slopes[i] - slopes[i + 1]) / h
            c3 = (slopes[i] + slopes[i + 1] - 2 * secant[i]) / h**2
            pieces.append((value[i], slopes[i], c2, c3))
    first, last = (secant[0], secant[-1]) if interpolation == "linear" else (slopes[0], slopes[-1])
    # A flat end would let the flow run away: keep at least a tenth of the neighboring piece's
    # slope.
    first = min(first, 0.1 * secant[0]) if secant[0] < 0 else first
    last = min(last, 0.1 * secant[-1]) if secant[-1] < 0 else last
    before = (value[0], first, 0.0, 0.0)
    after = (value[-1], last, 0.0, 0.0)
    return PumpCurve(tuple(flow), (before, *pieces, after))


@dataclass(frozen=True)
class Share:
    """A part of a pump's rise at one voltage: rise += weight * rise_scale * curve(flow_scale * Q +
    flow_shift).
    """

    weight: float
    flow_scale: float
    flow_shift: float
    curve: int


def voltage_shares(
    voltages: list[float], free_flows: list[float], voltage: float, kind: str
) -> tuple[list[Share], bool]:
    """How the maps at known voltages make the map at another, and whether that reaches beyond them.

    Between two voltages: both maps at the same fraction of their own greatest flow, weighted.
    Outside: affinity from the nearest map: a turbine by
    Q ~ n and dp ~ n^2; a roller or gerotor by Q ~ n at unchanged slip, with n ~ V.
    Args: voltages [V] increasing, free_flows [m3/s] last flow of each map, voltage [V], kind
    [turbine, roller, gerotor]. Returns: shares, outside. Source: affinity-laws.
    Valid: voltages above zero; outside the maps it is marked, since affinity is a guess there.

    >>> voltage_shares([12.0, 14.0], [400.0, 480.0], 14.0, "turbine")[0][0].curve
    1
    """
    n = len(voltages)
    for i in range(n):
        if voltage == voltages[i]:
            return [Share(1.0, 1.0, 0.0, i)], False
    if voltages[0] < voltage < voltages[-1]:
        i = bisect_right(voltages, voltage) - 1
        w = (voltage - voltages[i]) / (voltages[i + 1] - voltages[i])
        free = (1 - w) * free_flows[i] + w * free_flows[i + 1]
        return [
            Share(1 - w, free_flows[i] / free, 0.0, i),
            Share(w, free_flows[i + 1] / free, 0.0, i + 1),
        ], False
    i = 0 if voltage < voltages[0] else n - 1
    ratio = voltage / voltages[i]
    if kind == "turbine":
        return [Share(ratio**2, 1 / ratio, 0.0, i)], True
    return [Share(1.0, 1.0, (1 - ratio) * free_flows[i], i)], True


def density_times(kind: str, density: float, measured: float | None) -> float:
    """How a pump's rise and current in one fluid stand to those on its sheet, at the same flow and
    speed: dp = rho g H and torque ~ rho for a turbine, whose head
    does not ask what it lifts; 1 for a roller or gerotor, which displaces.

    Args: kind [turbine, roller, gerotor], density [kg/m3], measured [kg/m3] of the sheet's fluid or
    None where that is the same. Returns: [-]. Source: affinity-laws.
    Valid: thin fuels, where viscosity does not tell; the motor is taken to keep its speed, and the
    slip of a displacement pump its sheet's.

    >>> density_times("turbine", 781.0, 710.0)
    1.1
    """
    return density / measured if kind == "turbine" and measured is not None else 1.0


def displaced(
    swept: float, rated: float, efficiency: list[tuple[float, float]]
) -> list[tuple[float, float]]:
    """What a pump that displaces gives over pressure at another speed than its sheet's: what leaks
    back goes with pressure and not with speed, so that at a crawl nothing is left of it. Where
    nothing comes any more lies between two rows of the sheet.

    Args: swept [m3/s] at the speed it turns, rated [m3/s] at that of its sheet, efficiency [-] there
    as rows of pressure [Pa] and share, the last 0.
    Returns: rows of flow [m3/s] and pressure [Pa], flow rising; none where it gives nothing at all.
    Source: iso-4391. Valid: one viscosity; slip of gears and vanes, at speeds where it fills.

    >>> [(round(q, 3), round(p)) for q, p in displaced(1.0, 2.0, [(0, 0.9), (1e5, 0.7), (2e5, 0)])]
    [(0.0, 128571), (0.4, 100000), (0.8, 0)]
    """
    out: list[tuple[float, float]] = []
    for n, (pressure, share) in enumerate(efficiency):
        flow = swept - rated * (1 - share)
        if n == len(efficiency) - 1:
            flow = min(flow, 0.0)
        if flow <= 0:
            if out:
                before, low = out[-1]
                out.append((0.0, low + before / (before - flow) * (pressure - low)))
            break
        out.append((flow, pressure))
    return out[::-1]
