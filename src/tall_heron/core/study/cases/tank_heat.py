"""How much the fuel warms while the engine idles hot: what the pumps draw ends in the fuel; what
comes back stays in the tank, the rest goes to the rail.
"""

import math
from dataclasses import dataclass

from tall_heron.core.base.arithmetic import Why, format_number
from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.base.constants import HOUR, LPH
from tall_heron.core.document.figures import TankLevel
from tall_heron.core.study.study import Solved, Study


@dataclass(frozen=True)
class TankHeat:
    """`power` of the pumps [W], the share of their flow that comes `back` [-], the fuel in all
    tanks that take part, `liters` (and whether that is `assumed`), its `density` [kg/m3] and
    `heat_capacity` [J/(kg K)], what the tanks lose to the air, `loss` [W/K], and the `burnt` flow
    that leaves for good [m3/s]. The air is as warm as the fuel at the start; the engine's own heat
    is not in it.
    """

    power: float
    back: float
    liters: float
    density: float
    heat_capacity: float
    loss: float
    burnt: float
    assumed: bool = False

    def rise_after(self, seconds: float) -> float:
        """How much the tank has warmed [K], P/(U A) (1 - exp(-U A t/(m c)))."""
        capacity = self.liters / 1000 * self.density * self.heat_capacity
        return self.power * self.back / self.loss * -math.expm1(-self.loss * seconds / capacity)

    @property
    def rise(self) -> float:
        """What an hour warms the tank [K]."""
        return self.rise_after(HOUR)

    @property
    def at_rail(self) -> float:
        """How much warmer than the tank fuel reaches the engine [K]: the pumps' heat that does not
        come back goes with what is burnt.
        """
        flow = self.burnt * self.density * self.heat_capacity
        return self.power * (1 - self.back) / flow if flow > 0 else 0.0

    @property
    def why(self) -> Why:
        """The arithmetic of it."""
        kilograms = self.liters / 1000 * self.density
        steps = (
            f"tank warms {format_number(self.power)} W × {format_number(self.back)} back ÷ {format_number(self.loss)} W/K × (1 − exp(−{format_number(self.loss)} W/K × 3,600 s ÷"
            f" ({format_number(kilograms)} kg × {format_number(self.heat_capacity)} J/(kg·K)))) = {format_number(self.rise)} K in 1 h",
            f"at the rail {format_number(self.power)} W × {format_number(1 - self.back)} ÷"
            f" ({format_number(self.burnt / LPH)} L/h × {format_number(self.density / 1000)} kg/L × {format_number(self.heat_capacity)} J/(kg·K) ÷ 3,600 s/h)"
            f" = {format_number(self.at_rail)} K over the tank",
        )
        known = "no tank says its size" if self.assumed else "half of what the tanks hold"
        return Why(
            steps,
            f"Hot idle, {self.liters:g} L of fuel ({known}), air as warm as the fuel at the start, U A {self.loss:g} W/K assumed; no heat from engine or exhaust.",
        )


def tank_heat(study: Study) -> TankHeat:
    """The heat of a study's hot idle, none of it where the pumps deliver nothing. A pot is flushed
    by its lift pump, so all tanks warm as one.
    """
    solved = study.solved["idle"]
    deliver = study.pumps_deliver(solved) if solved.solution.converged else 0.0
    tanks = [
        e.properties.capacity_l
        for e in study.build.circuit.of_kind("tank")
        if isinstance(e.figures, TankLevel)
    ]
    known = sum(x for x in tanks if x is not None)
    alone = known < house_figure("tank_least_l")  # a pot is filled from a tank that is not drawn
    liters = house_figure("tank_fill_share") * (
        known + (house_figure("tank_usual_l") if alone else 0.0)
    )
    burnt = study.feed_path.burnt(solved.solution) if solved.solution.converged else 0.0
    return TankHeat(
        pump_power(solved) if deliver > 0 else 0.0,
        min(max(1 - burnt / deliver, 0.0), 1.0) if deliver > 0 and study.turns_back else 0.0,
        liters,
        study.fuel_demand.density,
        study.fuel_demand.fuel.heat_capacity,
        house_figure("tank_loss_w_k"),
        burnt,
        alone,
    )


def pump_power(solved: Solved) -> float:
    """What all pumps draw [W], as far as their sheets say."""
    return sum(
        (link.current or 0.0) * (solved.solution.voltage(link.element) or 0.0)
        for link in solved.solution.links.values()
    )


def pump_current(solved: Solved) -> float:
    """What all pumps draw [A], as far as their sheets say."""
    return sum(link.current or 0.0 for link in solved.solution.links.values())
