"""Operating points a brief asks to be looked at."""

from dataclasses import dataclass

from tall_heron.core.build import Brief
from tall_heron.core.catalogue import house_figure
from tall_heron.core.engine import Burn
from tall_heron.core.physics.suction import standard_atmosphere
from tall_heron.core.point import Point


@dataclass(frozen=True)
class Case:
    """A point with its name, what it is, and the flow commanded from all injectors [m3/s]."""

    key: str
    title: str
    point: Point
    demand: float


def make_cases(brief: Brief, burn: Burn) -> tuple[Case, ...]:
    """Peak, peak at low voltage, and hot idle."""
    wired = brief.voltage_v - house_figure("voltage_wiring_loss")
    low = min(house_figure("voltage_low"), wired)
    idle_burn = burn.volume_flow * house_figure("idle_burn_share")

    def point(name: str, manifold: float, voltage: float) -> Point:
        return Point(
            name=name,
            fuel=brief.fuel,
            temperature_c=brief.fuel_temperature_c,
            atmosphere_kpa=standard_atmosphere(brief.altitude_m) / 1000,
            manifold_kpa=manifold,
            demand_lph="brief",
            voltage_v=voltage,
        )

    return (
        Case("peak", "Peak", point("peak", brief.boost_kpa, wired), burn.volume_flow),
        Case("low voltage", "Low voltage", point("low voltage", brief.boost_kpa, low), burn.volume_flow),
        Case("idle", "Hot idle", point("idle", brief.idle_manifold_kpa, wired), idle_burn),
    )
