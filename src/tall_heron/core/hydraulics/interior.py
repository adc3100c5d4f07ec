"""Where Newton's guess of the kinks cycles: follow the smoothed complementarity pairs down to
nothing (Wright, Primal-Dual Interior-Point Methods, 1997).
"""

import math

from tall_heron.core.hydraulics.laws import LEAK, TYPICAL_FLOW, ChainLaw, RegulatorLaw, chain_loss
from tall_heron.core.hydraulics.network import Network
from tall_heron.core.hydraulics.newton import NewtonState, Row

STEPS = 120
PRESSURE_LEAST = 1e4  # Pa, the least pressure that the path starts from
SHORT = 0.95  # of the way to a bound that a step may go


def _size(law: ChainLaw) -> float:
    return max(-chain_loss(law, 0.0)[0] if law.pumps else 0.0, law.cracking)


class _Path:
    """The path of one network: flows strictly open, `low` the slack of those that may not turn,
    `high` of those that may not pass their most.
    """

    def __init__(self, net: Network, pressure: list[float], centring: float) -> None:
        self.net, self.pressure, self.centring = net, pressure, centring
        sizes = [_size(c) for c in net.chains] + [abs(r.target) for r in net.regulators]
        self.p0, self.q0 = max([abs(p) for p in net.fixed] + sizes + [PRESSURE_LEAST]), TYPICAL_FLOW
        self.laws: list[ChainLaw | RegulatorLaw] = [*net.chains, *net.regulators]
        self.most = [x.most if isinstance(x, ChainLaw) else math.inf for x in self.laws]
        self.flow = [min(self.q0, 0.5 * m) for m in self.most]
        self.one_way = [x.one_way if isinstance(x, ChainLaw) else True for x in self.laws]
        self.low = [0.1 * self.p0 if w else 0.0 for w in self.one_way]
        self.high = [0.1 * self.p0 if m < math.inf else 0.0 for m in self.most]
        self.pairs = sum(self.one_way) + sum(1 for h in self.high if h)
        self.mu = 0.1 * self.p0 * self.q0

    def walk(self) -> None:
        """Steps until the pairs close."""
        for _ in range(STEPS):
            step = self._step()
            gap = sum(q * s for q, s, w in zip(self.flow, self.low, self.one_way, strict=True) if w)
            gap += sum(
                (m - q) * h for q, m, h in zip(self.flow, self.most, self.high, strict=True) if h
            )
            if self.pairs and step > 0.3:
                self.mu = min(self.mu, self.centring * gap / self.pairs)
            if (not self.pairs or gap / self.pairs < 1e-13 * self.p0 * self.q0) and step > 0.9:
                break
            self.mu = max(self.mu, 1e-16 * self.p0 * self.q0)

    def _step(self) -> float:
        """One step, as far as every bound lets it; returns its share."""
        frame, pressure, flow = self.net.frame, self.pressure, self.flow
        rows = [self._row(i, pressure[u], pressure[v]) for i, (u, v) in enumerate(frame.ends)]
        rs, gus, gvs = (list(x) for x in zip(*rows, strict=True))
        sums = [0.0] * len(pressure)
        for (u, v), q in zip(frame.ends, flow, strict=True):
            sums[u] -= q
            sums[v] += q
        change = frame.plan.steps_of(sums, frame.ends, rs, gus, gvs)
        step, moves = 1.0, []
        for i, (u, v) in enumerate(frame.ends):
            q, low, high = flow[i], self.low[i], self.high[i]
            dq = rs[i] + gus[i] * change[u] + gvs[i] * change[v]
            ds = self.mu / q - low - low / q * dq if self.one_way[i] else 0.0
            room = self.most[i] - q if high else 0.0
            dt = self.mu / room - high + high / room * dq if high else 0.0
            moves.append((dq, ds, dt))
            for value, d in (
                (q if self.one_way[i] else 0.0, dq),
                (low, ds),
                (room, -dq),
                (high, dt),
            ):
                if value and d < 0 and -d * step > SHORT * value:
                    step = SHORT * value / -d
        for i, (dq, ds, dt) in enumerate(moves):
            flow[i] += step * dq
            self.low[i] += step * ds
            self.high[i] += step * dt
        for i in range(frame.unknown):
            pressure[i] += step * change[i]
        return step

    def _row(self, i: int, pu: float, pv: float) -> Row:
        """r, gu, gv of one chain or regulator on the smoothed path."""
        law, q, low, high, mu = self.laws[i], self.flow[i], self.low[i], self.high[i], self.mu
        if isinstance(law, RegulatorLaw):
            blur = self.p0 * math.sqrt(mu / (self.p0 * self.q0)) * 0.1
            holding = (pu - law.target if law.side == 0 else law.target - pv) - law.hold * q
            wide = pu - pv - law.wide_open * q * q
            half = math.hypot((holding - wide) / 2, blur)
            least = (holding + wide) / 2 - half
            w = 0.5 - (holding - wide) / 4 / half  # d least / d held
            slope = w * law.hold + (1 - w) * 2 * law.wide_open * q + low / q
            gu, gv = (1.0, w - 1) if law.side == 0 else (1 - w, -1.0)
            return (least + mu / q) / slope, gu / slope, gv / slope
        if law.given is not None:
            return law.given - q, LEAK, -LEAK
        h, slope = chain_loss(law, q)
        miss = pu - pv - h - law.cracking
        if law.one_way:
            miss += mu / q
            slope += low / q
        if high:
            room = law.most - q
            miss -= mu / room
            slope += high / room
        return miss / slope, 1 / slope, -1 / slope


def interior(net: Network, centring: float) -> tuple[NewtonState, list[bool]]:
    """A state near the solution, and which chains are shut there."""
    path = _Path(net, [0.0] * net.frame.unknown + net.fixed, centring)
    path.walk()
    # A link is shut where its slack outweighs its flow.
    p0, q0 = path.p0, path.q0
    shut = [
        w and q / q0 < s / p0 for w, q, s in zip(path.one_way, path.flow, path.low, strict=True)
    ]
    limited = [
        bool(h) and (m - q) / q0 < h / p0
        for h, m, q in zip(path.high, path.most, path.flow, strict=True)
    ]
    flow = [
        0.0 if s else m if x else q
        for s, x, m, q in zip(shut, limited, path.most, path.flow, strict=True)
    ]
    return NewtonState(path.pressure, flow), shut
