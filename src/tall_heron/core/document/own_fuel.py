"""A fuel of the builder's own."""

from typing import Annotated, Literal

from pydantic import (
    Field,
    ValidationInfo,
    field_validator,
)

from tall_heron.core.base.constants import CELSIUS
from tall_heron.core.document.record import Record
from tall_heron.core.physics.fuel import (
    AVIATION_SLOPE,
    MOTOR_SLOPE,
    Antoine,
    Fuel,
    antoine_through,
    antoine_with,
    fuel_named,
)

OWN = "own"  # the brief's word for a fuel of the builder's own


class OwnFuel(Record):
    """A fuel by its own figures, as its maker's sheet gives them."""

    name: Annotated[str, Field(min_length=1, max_length=20)]
    density_kg_m3: Annotated[float, Field(ge=500, le=1300, description="at 15 degC")]
    stoichiometric_ratio: Annotated[float, Field(ge=1, le=20)]
    heating_value_mj_kg: Annotated[float, Field(ge=5, le=60)]
    viscosity_20_mpa_s: Annotated[float, Field(ge=0.1, le=20)]
    viscosity_40_mpa_s: Annotated[float, Field(ge=0.1, le=20)]
    expansion_1_k: Annotated[float, Field(ge=0.0001, le=0.005)] = 0.001
    reid_vapour_kpa: Annotated[float, Field(ge=1, le=150)]
    ethanol_percent: Annotated[float, Field(ge=0, le=100)] = 0.0
    methanol: bool = False
    boils_like: Literal["gasoline", "avgas", "ethanol", "methanol"] | None = None
    vapour_60_kpa: (
        Annotated[float, Field(ge=1, le=900, description="absolute, at 60 degC")] | None
    ) = None

    @field_validator("vapour_60_kpa")
    @classmethod
    def _boils_sooner_hot(cls, kpa: float | None, info: ValidationInfo) -> float | None:
        if kpa is not None and kpa <= info.data.get("reid_vapour_kpa", 0.0):
            raise ValueError(
                "at 60 °C its vapor pressure is above the Reid figure, which is taken at 38 °C"
            )
        return kpa

    @field_validator("viscosity_40_mpa_s")
    @classmethod
    def _thins(cls, warm: float, info: ValidationInfo) -> float:
        if warm > info.data.get("viscosity_20_mpa_s", warm):
            raise ValueError(
                "a fuel is thinner warm than cold; it cannot be above the viscosity at 20 °C"
            )
        return warm

    @property
    def boils_as(self) -> str:
        """Whose law of boiling it follows: as is said, else of the alcohol that it mostly is."""
        mostly = "methanol" if self.methanol else "ethanol" if self.ethanol_percent > 90 else ""
        return self.boils_like or mostly or "gasoline"

    @property
    def _antoine(self) -> Antoine | None:
        reid = self.reid_vapour_kpa * 1000
        if self.vapour_60_kpa is not None:
            return antoine_through(reid, CELSIUS + 60, self.vapour_60_kpa * 1000)
        neat = {"ethanol": "E100", "methanol": "methanol"}.get(self.boils_as)
        law = fuel_named(neat).antoine if neat else None
        return antoine_with(law, reid) if law is not None else None

    def fuel(self) -> Fuel:
        """The fuel in SI."""
        return Fuel(
            self.name,
            self.ethanol_percent / 100,
            self.density_kg_m3,
            self.expansion_1_k,
            self.viscosity_20_mpa_s / 1000,
            self.viscosity_40_mpa_s / 1000,
            self.stoichiometric_ratio,
            self.heating_value_mj_kg * 1e6,
            self.reid_vapour_kpa * 1000,
            "own",
            methanol=self.methanol,
            antoine=self._antoine,
            distillation_slope=AVIATION_SLOPE if self.boils_as == "avgas" else MOTOR_SLOPE,
        )
