"""Operating points a brief asks to be looked at."""

from dataclasses import dataclass

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.base.constants import CELSIUS
from tall_heron.core.document.build import Brief
from tall_heron.core.document.circuit import Circuit
from tall_heron.core.document.point import Point
from tall_heron.core.physics.fuel import Fuel
from tall_heron.core.physics.suction import standard_atmosphere
from tall_heron.core.study.demand import Burn, burn

# ASTM D5798, from memory: what is sold as E85 holds 51 to 83 % by the season; a flex engine meets anything up to E85.
RANGES = {"as sold": ("E51", "E83"), "flex": ("E0", "E85")}
USUAL_RPM = {"flight": 2700.0, "road": 6000.0}  # common practice, where the brief says nothing
IDLE_SPEED = 0.15  # of the speed at peak, common practice
ALCOHOL = 0.5  # ethanol above which a fuel is one of a range


@dataclass(frozen=True)
class Case:
    """A point with its name, what it is, the flow commanded from all injectors [m3/s], and its fuel."""

    key: str
    title: str
    point: Point
    demand: float
    fuel: Fuel


def make_cases(brief: Brief, what: Burn, circuit: Circuit | None = None) -> tuple[Case, ...]:
    """Peak, peak at low voltage, and hot idle; peak from the right tank, where there is a selector; peak and idle at both ends of
    the range of an alcohol fuel, where the brief asks for it."""
    wired = brief.voltage_v - house_figure("voltage_wiring_loss")
    low = min(house_figure("voltage_low"), wired)
    idle_share = house_figure("idle_burn_share")

    peak_rpm = brief.peak_rpm or USUAL_RPM["flight" if brief.use == "flight" else "road"]

    def resting(manifold: float, rpm: float) -> list[str]:
        """Staged pumps that do not run yet."""
        staged = [e for e in circuit.elements if e.stage is not None] if circuit is not None else []
        return [e.id for e in staged if e.stage is not None and (manifold if e.stage.by == "boost" else rpm) < e.stage.at]

    taps = [e.id for e in circuit.of_kind("auxiliary")] if circuit is not None else []
    selectors = [e.id for e in circuit.elements if e.kind == "selector"] if circuit is not None else []

    def case(key: str, title: str, manifold: float, voltage: float, demand: float, fuel: Fuel, tank: str = "") -> Case:
        kelvin = brief.fuel_temperature_c + CELSIUS
        own = fuel.family == "own"
        rpm = peak_rpm * IDLE_SPEED if key.startswith("idle") else peak_rpm
        point = Point(
            name=key,
            fuel=None if own else fuel.name,
            density_kg_m3=fuel.density(kelvin) if own else None,
            viscosity_mpa_s=fuel.viscosity(kelvin) * 1000 if own else None,
            temperature_c=brief.fuel_temperature_c,
            atmosphere_kpa=standard_atmosphere(brief.altitude_m) / 1000,
            manifold_kpa=manifold,
            demand_lph="brief",
            engine_rpm=rpm,
            off=resting(manifold, rpm) + (taps if key.startswith("idle") else []),
            position=dict.fromkeys(selectors, tank) if tank else {},
            voltage_v=voltage,
        )
        return Case(key, title, point, demand, fuel)

    boost, idle = brief.boost_kpa, brief.idle_manifold_kpa
    out = [
        case("peak", "Peak", boost, wired, what.volume_flow, what.fuel),
        case("low voltage", "Low voltage", boost, low, what.volume_flow, what.fuel),
        case("idle", "Hot idle", idle, wired, what.volume_flow * idle_share, what.fuel),
    ]
    if selectors:
        out.append(case("peak right", "Peak, right tank", boost, wired, what.volume_flow, what.fuel, "right"))
    for name in RANGES.get(brief.ethanol_range, ()) if what.fuel.ethanol > ALCOHOL else ():
        there = burn(brief.model_copy(update={"fuel": name}))
        out += [
            case(f"peak {name}", f"Peak {name}", boost, wired, there.volume_flow, there.fuel),
            case(f"idle {name}", f"Idle {name}", idle, wired, there.volume_flow * idle_share, there.fuel),
        ]
    return tuple(out)
