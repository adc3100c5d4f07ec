"""A case of the builder's own: changes to the brief's peak, by a name."""

from typing import Annotated

from pydantic import Field

from tall_heron.core.document.record import Name, NotNegative, Record


class OwnCase(Record):
    """What is other than at the brief's peak; what is not said is as there. `power_share` is of the
    peak's power, `clogging` multiplies a filter's loss, `ahead_g` is how hard it speeds up (below
    0: brakes), `left_g` how hard it turns to the left, `pitch_deg` how far its nose is up,
    `bank_deg` its right side down.
    """

    name: Annotated[str, Field(min_length=1, max_length=40)]
    fuel: Annotated[str, Field(max_length=20)] | None = None
    fuel_temperature_c: Annotated[float, Field(ge=-40, le=90)] | None = None
    altitude_m: Annotated[float, Field(ge=-400, le=10000)] | None = None
    power_share: Annotated[float, Field(ge=0, le=2)] = 1.0
    manifold_kpa: Annotated[float, Field(ge=-101, le=700, description="gauge")] | None = None
    engine_rpm: NotNegative | None = None
    voltage_v: Annotated[float, Field(ge=4, le=60)] | None = None
    clogging: dict[Name, Annotated[float, Field(ge=1, le=1000)]] = Field(default_factory=dict)
    off: list[Name] = Field(default_factory=list)
    position: dict[Name, str] = Field(default_factory=dict)
    level_mm: dict[Name, NotNegative] = Field(default_factory=dict)
    ahead_g: Annotated[float, Field(ge=-5, le=5)] = 0.0
    pitch_deg: Annotated[float, Field(ge=-60, le=60)] = 0.0
    left_g: Annotated[float, Field(ge=-5, le=5)] = 0.0
    bank_deg: Annotated[float, Field(ge=-60, le=60)] = 0.0
