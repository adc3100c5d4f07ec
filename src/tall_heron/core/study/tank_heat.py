"""How much the tank warms while the engine idles hot: what the pumps draw ends in the fuel, and the share that comes back stays."""

from dataclasses import dataclass

from tall_heron.core.base.arithmetic import Why, figure
from tall_heron.core.base.constants import HOUR
from tall_heron.core.document.circuit import TankLevel
from tall_heron.core.study.study import Solved, Study

USUAL_TANK_L = 60.0  # where the tank says nothing of its size


@dataclass(frozen=True)
class TankHeat:
    """`power` of the pumps [W], the share of their flow that comes `back` [-], and the fuel of a full tank: `litres`, `density` [kg/m3] and
    `heat_capacity` [J/(kg K)]; the tank loses nothing."""

    power: float
    back: float
    litres: float
    density: float
    heat_capacity: float

    @property
    def rise(self) -> float:
        """What an hour warms the tank [K]."""
        return self.power * self.back * HOUR / (self.litres / 1000 * self.density * self.heat_capacity)

    @property
    def why(self) -> Why:
        """The arithmetic of it."""
        kilograms = self.litres / 1000 * self.density
        step = (
            f"tank warms {figure(self.power)} W × {figure(self.back)} back × 3,600 s ÷ ({figure(kilograms)} kg × {figure(self.heat_capacity)} J/(kg·K))"
            f" = {figure(self.rise)} K in 1 h"
        )
        return Why((step,), f"Hot idle, {self.litres:g} L of fuel, no heat lost.")


def tank_heat(study: Study) -> TankHeat:
    """The heat of a study's hot idle, none of it where the pumps deliver nothing."""
    solved = study.solved["idle"]
    deliver = study.pumps_deliver(solved) if solved.solution.converged else 0.0
    voltage = solved.case.point.voltage_v
    tank = next((e for e in study.build.circuit.of_kind("tank") if isinstance(e.figures, TankLevel)), None)
    return TankHeat(
        pump_current(solved) * (voltage if isinstance(voltage, float) else 0.0) if deliver > 0 else 0.0,
        max(0.0, 1 - solved.case.demand / deliver) if deliver > 0 else 0.0,
        (tank.properties.capacity_l if tank is not None else None) or USUAL_TANK_L,
        study.burn.density,
        study.burn.fuel.heat_capacity,
    )


def pump_current(solved: Solved) -> float:
    """What all pumps draw [A], as far as their sheets say."""
    return sum(link.current or 0.0 for link in solved.solution.links.values())
