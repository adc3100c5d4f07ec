"""Jet pumps in the network: two links whose laws hang on each other's flows, settled by solving
again and again.
"""

import math
from dataclasses import dataclass, field

from tall_heron.core.document.figures import Jet
from tall_heron.core.hydraulics.laws import INFINITE, PumpRise, Resistance, idle_map
from tall_heron.core.physics.jet import jet_rise, motive_loss
from tall_heron.core.physics.pump import PumpCurve, Share

FIRST_MOTIVE, FIRST_DRAWN = 5e-5, 2.5e-5  # m3/s, where a jet's flows start
LEAST = 1e-8  # m3/s, motive flow below which nothing is drawn along
MOST_RATIO = 20.0
SETTLED = 1e-8  # of its flow, how well a jet's guess must come back
LEAST_LOSS = 0.01  # of what the nozzle takes without a drawn stream: a jet is no pump for its own motive flow
FASTEST_FALL = 8.0
FIRST_STEP, STEEPEST, SHALLOWEST = (
    0.5,
    -4.0,
    0.5,
)  # of the way to what was found; slopes that are believed


@dataclass(slots=True)
class Guess:
    """A flow [m3/s] that the laws made for it must give again; stepped by Wegstein's secant
    (Communications of the ACM 1, 1958), within bounds.
    """

    value: float
    before: tuple[float, float] | None = None

    def settles(self, solved_flow: float) -> bool:
        """Whether what was found is what was guessed, to a hundred-millionth; steps toward it."""
        if solved_flow <= 0.0 < self.value <= LEAST:
            self.before, self.value = None, 0.0  # once more for none at all
            return False
        step = FIRST_STEP
        if self.before is not None and self.value != self.before[0]:
            slope = (solved_flow - self.before[1]) / (self.value - self.before[0])
            step = 1 / (1 - min(max(slope, STEEPEST), SHALLOWEST))
        done = (
            math.isclose(solved_flow, self.value, rel_tol=SETTLED, abs_tol=SETTLED * LEAST)
            or max(solved_flow, self.value) <= LEAST
        )
        self.before = self.value, solved_flow
        stepped = self.value + step * (solved_flow - self.value)
        self.value = max(
            stepped, self.value / FASTEST_FALL
        )  # a jet that stops does so by and by: laws for no flow at all are far from those for some
        return done


@dataclass(slots=True)
class JetPair:
    """The keys of a jet pump's two links, its part, and the flows its laws were last made for."""

    nozzle: str
    suction: str
    figures: Jet
    motive: Guess = field(default_factory=lambda: Guess(FIRST_MOTIVE))
    drawn: Guess = field(default_factory=lambda: Guess(FIRST_DRAWN))

    def settles(self, motive: float, drawn: float) -> bool:
        """Whether the flows found [m3/s] are those the laws were made for; steps toward them."""
        both = self.motive.settles(motive), self.drawn.settles(drawn)
        return all(both)


def nozzle_law(part: Jet, density: float, motive: float, drawn: float) -> Resistance:
    """What the nozzle takes from its inlet to the discharge, less what the mixing gives back."""
    bore, throat, flow = part.nozzle_mm / 1000, part.throat_mm / 1000, max(motive, LEAST)
    loss = motive_loss(
        flow, max(drawn, 0.0), bore, throat, density, part.nozzle_loss, part.suction_loss
    )
    back = jet_rise(
        flow, max(drawn, 0.0), bore, throat, density, part.suction_loss, part.throat_loss
    )
    least = LEAST_LOSS * motive_loss(
        flow, 0.0, bore, throat, density, part.nozzle_loss, part.suction_loss
    )
    return Resistance(0.0, max(loss - back, least) / flow**2, one_way=True)


def suction_law(part: Jet, density: float, motive: float) -> PumpRise:
    """What the jet gives to what it draws along at the motive flow there is: jet_rise as it stands,
    a parabola of the drawn flow that falls everywhere.
    """
    if motive <= LEAST:
        return idle_map()
    bore, throat = part.nozzle_mm / 1000, part.throat_mm / 1000

    def rise(ratio: float) -> float:
        return jet_rise(
            motive, ratio * motive, bore, throat, density, part.suction_loss, part.throat_loss
        )

    still, once, twice = rise(0.0), rise(1.0), rise(2.0)
    bend = (twice - 2 * once + still) / 2
    piece = (still, (once - still - bend) / motive, bend / motive**2, 0.0)
    free = motive * MOST_RATIO
    return PumpRise(
        (PumpCurve((0.0, free), (piece, piece, _onward(piece, free))),),
        [Share(1.0, 1.0, 0.0, 0)],
        INFINITE,
        free,
        False,
    )


def _onward(
    piece: tuple[float, float, float, float], flow: float
) -> tuple[float, float, float, float]:
    """The same parabola counted from another flow."""
    c0, c1, c2, _ = piece
    return c0 + flow * (c1 + flow * c2), c1 + 2 * c2 * flow, c2, 0.0
