"""Operating points a brief asks to be looked at."""

import math
from dataclasses import dataclass
from typing import Literal

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.base.constants import KPA
from tall_heron.core.document.build import Brief
from tall_heron.core.document.circuit import Circuit
from tall_heron.core.document.figures import Injectors
from tall_heron.core.document.point import Point
from tall_heron.core.hydraulics.compile import injectors_full_flow
from tall_heron.core.physics.fuel import Fuel, fuel_named
from tall_heron.core.physics.suction import standard_atmosphere
from tall_heron.core.study.demand import FuelDemand, fuel_demand, margin

# ASTM D5798, from memory: what is sold as E85 holds 51 to 83 % by the season; a flex engine meets
# anything up to E85.
RANGES = {"as sold": ("E51", "E83"), "flex": ("E0", "E85")}
BETWEEN = {
    "flex": ("E10", "E51")
}  # pump fuel, which boils soonest, and the season's leanest E85: blends that a tank passes through
USUAL_RPM = {"flight": 2700.0, "road": 6000.0}  # common practice, where the brief says nothing
IDLE_SPEED = 0.15  # of the speed at peak, common practice
ALCOHOL = 0.5  # ethanol above which a fuel is one of a range
SYSTEMS = (
    (9.0, 0.5),
    (20.0, 1.0),
    (36.0, 2.0),
    (math.inf, 4.0),
)  # volts under which a running system is one of 6, 12, 24 or 48 V, in batteries of 12 V
Kind = Literal["peak", "low voltage", "idle"]


@dataclass(frozen=True)
class Case:
    """A point with its name and title, the `kind` of moment it is, the flow commanded from all
    injectors [m3/s], its fuel, the headroom asked of the pumps over the demand [-] (None where none
    is asked), and whether auxiliary taps are open.
    """

    key: str
    title: str
    kind: Kind
    point: Point
    demand: float
    fuel: Fuel
    margin: float | None
    taps_open: bool


@dataclass(frozen=True)
class _Moments:
    """What makes the cases of one brief and circuit."""

    brief: Brief
    circuit: Circuit | None
    wired: bool = False

    def of(
        self, kind: Kind, burnt: float, fuel: Fuel, key: str = "", title: str = "", tank: str = ""
    ) -> Case:
        """One case of a demand at full power [m3/s], with a name and title of its own where it has
        one, its selectors at a `tank`.
        """
        brief, idle = self.brief, kind == "idle"
        usual = {"peak": "Peak", "low voltage": "Low voltage", "idle": "Hot idle"}[kind]
        demand = burnt * house_figure("idle_burn_share") if idle else burnt
        asked = {"peak": margin(brief)[0], "low voltage": 0.0, "idle": None}[kind]
        return Case(
            key or kind,
            title or usual,
            kind,
            self._point(kind, key or kind, fuel, tank, demand),
            demand,
            fuel,
            asked,
            not idle,
        )

    def _point(self, kind: Kind, name: str, fuel: Fuel, tank: str, demand: float) -> Point:
        brief, idle, own = self.brief, kind == "idle", fuel.family == "own"
        peak_rpm = brief.peak_rpm or USUAL_RPM["flight" if brief.use == "flight" else "road"]
        rpm, manifold = (
            (peak_rpm * IDLE_SPEED, brief.idle_manifold_kpa)
            if idle
            else (peak_rpm, brief.boost_kpa)
        )
        usual = running_voltage(brief, self.wired)
        elements = self.circuit.elements if self.circuit is not None else []
        rests = (
            resting_at(self.circuit, brief, fuel, demand, manifold, rpm, idle)
            if self.circuit is not None
            else []
        )
        return Point(
            name=name,
            fuel=None if own else fuel.name,
            density_kg_m3=fuel.density(brief.fuel_temperature) if own else None,
            viscosity_mpa_s=fuel.viscosity(brief.fuel_temperature) * 1000 if own else None,
            temperature_c=brief.fuel_temperature_c,
            atmosphere_kpa=standard_atmosphere(brief.altitude_m) / 1000,
            manifold_kpa=manifold,
            demand_lph="brief",
            engine_rpm=rpm,
            off=rests + ([e.id for e in elements if e.kind == "auxiliary"] if idle else []),
            position={e.id: tank for e in elements if e.kind == "selector"} if tank else {},
            voltage_v=min(low_voltage(brief, self.wired), usual)
            if kind == "low voltage"
            else usual,
        )


def resting_at(
    circuit: Circuit,
    brief: Brief,
    fuel: Fuel,
    demand: float,
    manifold_kpa: float,
    rpm: float,
    idle: bool = False,
) -> list[str]:
    """Staged pumps that do not run yet at a demand [m3/s], a manifold pressure and an engine speed; a
    switch is thrown for all but idle.
    """
    now = {
        "boost": manifold_kpa,
        "speed": rpm,
        "duty": _duty(circuit, brief, fuel, demand),
        "switch": -1.0 if idle else 0.0,
    }
    return [e.id for e in circuit.elements if e.stage is not None and now[e.stage.by] < e.stage.at]


def _duty(circuit: Circuit, brief: Brief, fuel: Fuel, demand: float) -> float:
    """How far open the injectors are commanded [-]: what is asked over what they pass fully open at
    the base pressure; 0 where their flow is not known.
    """
    sets = [e.figures for e in circuit.of_kind("injectors") if isinstance(e.figures, Injectors)]
    full = sum(
        injectors_full_flow(part, part.commanded_at_kpa * KPA, fuel.density(brief.fuel_temperature))
        for part in sets
    )
    return demand / full if full > 0 else 0.0


def running_voltage(brief: Brief, wired: bool) -> float:
    """What a case of a running engine says of voltage [V]: at the source, where wires are solved;
    at the pumps, where their loss is assumed.
    """
    return brief.voltage_v if wired else brief.voltage_v - house_figure("voltage_wiring_loss")


def cells_of(brief: Brief) -> float:
    """How many batteries of 12 V a system stands for [-]: one, or two of 24 V."""
    return next(times for most, times in SYSTEMS if brief.voltage_v < most)


def low_voltage(brief: Brief, wired: bool) -> float:
    """The same with the alternator not charging [V]: of a battery of as many cells as the system
    has.
    """
    return cells_of(brief) * house_figure("battery_volts" if wired else "voltage_low")


def make_cases(
    brief: Brief, what: FuelDemand, circuit: Circuit | None = None, wired: bool = False
) -> tuple[Case, ...]:
    """Peak, peak at low voltage, and hot idle; peak from the right tank, where there is a selector;
    peak and idle at both ends of the range of an alcohol fuel, where the brief asks for it. Where
    the build is `wired`, their voltage is that of the source.
    """
    case = _Moments(brief, circuit, wired).of
    kinds: tuple[Kind, ...] = ("peak", "low voltage", "idle")
    out = [case(kind, what.volume_flow, what.fuel) for kind in kinds]
    if circuit is not None and circuit.of_kind("selector"):
        out.append(
            case("peak", what.volume_flow, what.fuel, "peak right", "Peak, right tank", "right")
        )
    for name in ends_of_range(brief, what.fuel):
        there = fuel_demand(brief.model_copy(update={"fuel": name}))
        for kind in kinds:
            title = {"peak": "Peak", "low voltage": "Low voltage", "idle": "Idle"}[kind]
            out.append(
                case(kind, there.volume_flow, there.fuel, f"{kind} {name}", f"{title} {name}")
            )
    for name in between(brief, what.fuel):
        there = fuel_demand(brief.model_copy(update={"fuel": name}))
        out.append(case("peak", there.volume_flow, there.fuel, f"peak {name}", f"Peak {name}"))
    return tuple(out)


def between(brief: Brief, fuel: Fuel) -> tuple[str, ...]:
    """The blends between the ends of a range that are looked at as well: at peak, for what boils
    sooner than either end.
    """
    return tuple(
        name
        for name in BETWEEN.get(brief.ethanol_range, ())
        if name != fuel.name and not fuel.methanol
    )


def ends_of_range(brief: Brief, fuel: Fuel) -> tuple[str, ...]:
    """The blends beside a brief's own fuel that its engine meets: both ends of flex fuel whatever
    is named, or what is sold as one.
    """
    if fuel.methanol or (brief.ethanol_range != "flex" and fuel.ethanol <= ALCOHOL):
        return ()
    return tuple(name for name in RANGES.get(brief.ethanol_range, ()) if name != fuel.name)


def fuels_met(brief: Brief) -> tuple[Fuel, ...]:
    """Every fuel that an engine's parts must bear: the brief's own, and the ends of its range."""
    own = brief.fuel_of(brief.fuel)
    return (own, *(fuel_named(name) for name in ends_of_range(brief, own)))
