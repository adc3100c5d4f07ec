"""Operating points a brief asks to be looked at."""

from dataclasses import dataclass
from typing import Literal

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.base.constants import KPA
from tall_heron.core.document.build import Brief
from tall_heron.core.document.circuit import Circuit, Injectors
from tall_heron.core.document.point import Point
from tall_heron.core.hydraulics.compile import injectors_full_flow
from tall_heron.core.physics.fuel import Fuel
from tall_heron.core.physics.suction import standard_atmosphere
from tall_heron.core.study.demand import Burn, burn, margin

# ASTM D5798, from memory: what is sold as E85 holds 51 to 83 % by the season; a flex engine meets anything up to E85.
RANGES = {"as sold": ("E51", "E83"), "flex": ("E0", "E85")}
USUAL_RPM = {"flight": 2700.0, "road": 6000.0}  # common practice, where the brief says nothing
IDLE_SPEED = 0.15  # of the speed at peak, common practice
ALCOHOL = 0.5  # ethanol above which a fuel is one of a range
Kind = Literal["peak", "low voltage", "idle"]


@dataclass(frozen=True)
class Case:
    """A point with its name and title, the `kind` of moment it is, the flow commanded from all injectors [m3/s], its fuel, the spare flow asked of the pumps over
    the burn [-] (None where none is asked), and whether auxiliary taps are open."""

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

    def of(self, kind: Kind, burnt: float, fuel: Fuel, key: str = "", title: str = "", tank: str = "") -> Case:
        """One case of a burn at full power [m3/s], with a name and title of its own where it has one, its selectors at a `tank`."""
        brief, idle = self.brief, kind == "idle"
        usual = {"peak": "Peak", "low voltage": "Low voltage", "idle": "Hot idle"}[kind]
        demand = burnt * house_figure("idle_burn_share") if idle else burnt
        asked = {"peak": margin(brief)[0], "low voltage": 0.0, "idle": None}[kind]
        return Case(key or kind, title or usual, kind, self._point(kind, key or kind, fuel, tank, demand), demand, fuel, asked, not idle)

    def _point(self, kind: Kind, name: str, fuel: Fuel, tank: str, demand: float) -> Point:
        brief, idle, own = self.brief, kind == "idle", fuel.family == "own"
        peak_rpm = brief.peak_rpm or USUAL_RPM["flight" if brief.use == "flight" else "road"]
        rpm, manifold = (peak_rpm * IDLE_SPEED, brief.idle_manifold_kpa) if idle else (peak_rpm, brief.boost_kpa)
        wired = brief.voltage_v - house_figure("voltage_wiring_loss")
        elements = self.circuit.elements if self.circuit is not None else []
        rests = resting_at(self.circuit, brief, fuel, demand, manifold, rpm, idle) if self.circuit is not None else []
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
            voltage_v=min(house_figure("voltage_low"), wired) if kind == "low voltage" else wired,
        )



def resting_at(circuit: Circuit, brief: Brief, fuel: Fuel, demand: float, manifold_kpa: float, rpm: float, idle: bool = False) -> list[str]:
    """Staged pumps that do not run yet at a burn [m3/s], a manifold pressure and an engine speed; a switch is thrown for all but idle."""
    now = {"boost": manifold_kpa, "speed": rpm, "duty": _duty(circuit, brief, fuel, demand), "switch": -1.0 if idle else 0.0}
    return [e.id for e in circuit.elements if e.stage is not None and now[e.stage.by] < e.stage.at]


def _duty(circuit: Circuit, brief: Brief, fuel: Fuel, demand: float) -> float:
    """How far open the injectors are commanded [-]: what is asked over what they pass fully open at the base pressure; 0 where their flow is not known."""
    sets = [e.figures for e in circuit.of_kind("injectors") if isinstance(e.figures, Injectors)]
    full = sum(injectors_full_flow(part, part.commanded_at_kpa * KPA, fuel.density(brief.fuel_temperature)) for part in sets)
    return demand / full if full > 0 else 0.0


def make_cases(brief: Brief, what: Burn, circuit: Circuit | None = None) -> tuple[Case, ...]:
    """Peak, peak at low voltage, and hot idle; peak from the right tank, where there is a selector; peak and idle at both ends of
    the range of an alcohol fuel, where the brief asks for it."""
    case = _Moments(brief, circuit).of
    kinds: tuple[Kind, ...] = ("peak", "low voltage", "idle")
    out = [case(kind, what.volume_flow, what.fuel) for kind in kinds]
    if circuit is not None and circuit.of_kind("selector"):
        out.append(case("peak", what.volume_flow, what.fuel, "peak right", "Peak, right tank", "right"))
    for name in RANGES.get(brief.ethanol_range, ()) if what.fuel.ethanol > ALCOHOL else ():
        there = burn(brief.model_copy(update={"fuel": name}))
        out += [case("peak", there.volume_flow, there.fuel, f"peak {name}", f"Peak {name}"), case("idle", there.volume_flow, there.fuel, f"idle {name}", f"Idle {name}")]
    return tuple(out)
