"""An operating point: everything about the moment, nothing about the circuit."""

from functools import lru_cache
from typing import Annotated, Literal

from pydantic import Field, model_validator

from tall_heron.core.base.constants import CELSIUS, KPA
from tall_heron.core.document.record import Name, NotNegative, Record, above_zero
from tall_heron.core.physics.fuel import fuel_named


@lru_cache(maxsize=256)
def _fluid(fuel: str, temperature_c: float) -> tuple[float, float]:
    named, kelvin = fuel_named(fuel), temperature_c + CELSIUS
    return named.density(kelvin), named.viscosity(kelvin)


_Positions = dict[Name, str]


class Point(Record):
    """One moment to solve. `fuel` by name, or density and viscosity; `demand_lph` commanded from
    all injectors together, from each by id, or `brief`; `voltage_v` stands at the pumps, or where
    `wire_ohm` gives what lies between, at the source; `clogging` multiplies a filter's loss.
    """

    name: Annotated[str, Field(min_length=1, max_length=80)] = "point"
    fuel: Annotated[str, Field(max_length=40)] | None = None
    density_kg_m3: Annotated[float, Field(ge=100, le=5000)] | None = None
    viscosity_mpa_s: Annotated[float, Field(ge=0.01, le=10000)] | None = None
    temperature_c: Annotated[float, Field(ge=-60, le=150)] = 20.0
    atmosphere_kpa: Annotated[float, Field(ge=10, le=120)] = 101.325
    manifold_kpa: Annotated[float, Field(ge=-101, le=1000, description="gauge")] = 0.0
    demand_lph: Literal["brief"] | NotNegative | dict[Name, NotNegative] = 0.0
    engine_rpm: NotNegative | None = None
    voltage_v: (
        dict[Name, Annotated[float, above_zero(1000)]] | Annotated[float, above_zero(1000)] | None
    ) = None
    wire_ohm: dict[Name, Annotated[float, Field(ge=0, le=1000)]] = Field(default_factory=dict)
    off: list[Name] = Field(default_factory=list)
    position: _Positions = Field(default_factory=dict)
    level_mm: dict[Name, NotNegative] = Field(default_factory=dict)
    clogging: dict[Name, Annotated[float, Field(ge=1, le=1e6)]] = Field(default_factory=dict)

    @model_validator(mode="after")
    def _has_fluid(self) -> "Point":
        own = (self.density_kg_m3 is not None) + (self.viscosity_mpa_s is not None)
        if own == 1 or (own == 0 and self.fuel is None) or (own and self.fuel):
            raise ValueError("give either fuel, or density_kg_m3 and viscosity_mpa_s together")
        if self.fuel is not None:
            fuel_named(self.fuel)
        return self

    @property
    def atmosphere(self) -> float:
        """The air's pressure [Pa absolute]."""
        return self.atmosphere_kpa * KPA

    @property
    def manifold(self) -> float:
        """The manifold's pressure [Pa gauge]."""
        return self.manifold_kpa * KPA

    def fluid(self) -> tuple[float, float]:
        """Density [kg/m3] and viscosity [Pa s] at the point's temperature."""
        if self.density_kg_m3 is not None and self.viscosity_mpa_s is not None:
            return self.density_kg_m3, self.viscosity_mpa_s / 1000
        assert self.fuel is not None
        return _fluid(self.fuel, self.temperature_c)

    def voltage_at(self, pump: str) -> float | None:
        """Voltage at a pump's terminals, or at the source of its wires [V]; None where nothing is
        said.
        """
        if isinstance(self.voltage_v, dict):
            return self.voltage_v.get(pump)
        return self.voltage_v

    def voltage_on(self, pump: str, current: float | None) -> float | None:
        """Voltage at a pump's terminals that draws a current [V, A]; None where nothing is said."""
        volts, ohm = self.voltage_at(pump), self.wire_ohm.get(pump, 0.0)
        return volts - ohm * current if volts is not None and ohm and current is not None else volts


def reference_pressure_kpa(reference: str, manifold_kpa: float) -> float:
    """What a regulator's port or an injector's tip feels of the manifold [kPa gauge]: all of it,
    boost alone, or nothing.
    """
    return {
        "manifold": manifold_kpa,
        "hat": max(manifold_kpa, 0.0),
        "bowl": max(manifold_kpa, 0.0),
    }.get(reference, 0.0)
