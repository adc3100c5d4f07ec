"""How a part of a circuit resists, lifts or holds: its figures, by law; no equations here. Document
figures carry their unit in the name.
"""

import itertools
from typing import Annotated, Literal, get_args

from pydantic import Field, model_validator

from tall_heron.core.document.record import (
    Bore,
    Finite,
    NotNegative,
    Positive,
    Record,
    Source,
    above_zero,
)


class Fluid(Record):
    """A fluid given by its figures."""

    density_kg_m3: Annotated[float, Field(ge=100, le=5000)]
    viscosity_mpa_s: Annotated[float, Field(ge=0.01, le=10000)]


class Pipe(Record):
    """Straight bore with friction; `loss_coefficient` is on its own bore; `friction_factor_times`
    is for convoluted bores.
    """

    law: Literal["pipe"] = "pipe"
    bore_mm: Bore
    roughness_um: Annotated[float, Field(ge=0, le=5000)] = 1.5
    loss_coefficient: NotNegative = 0.0
    friction_factor_times: Annotated[float, Field(ge=0.1, le=20)] = 1.0


class Loss(Record):
    """A loss by K on a bore."""

    law: Literal["loss"] = "loss"
    bore_mm: Bore
    loss_coefficient: NotNegative


class Tee(Record):
    """A tee: K through the run and K round the corner, both on its bore."""

    law: Literal["tee"] = "tee"
    bore_mm: Bore
    run_loss_coefficient: NotNegative
    branch_loss_coefficient: NotNegative


class Quadratic(Record):
    """dp = a Q + b Q|Q|, measured with a fluid (the point's own when `measured_with` is absent)."""

    law: Literal["quadratic"] = "quadratic"
    a_kpa_per_lph: NotNegative
    b_kpa_per_lph2: NotNegative
    measured_with: Fluid | None = None

    @model_validator(mode="after")
    def _resists(self) -> "Quadratic":
        if self.a_kpa_per_lph == 0 and self.b_kpa_per_lph2 == 0:
            raise ValueError("a filter with a and b both 0 takes no pressure: give at least one")
        return self


class Check(Record):
    """One-way valve: opens at the cracking pressure, then K on its bore."""

    law: Literal["check"] = "check"
    cracking_kpa: NotNegative = 0.0
    bore_mm: Bore
    loss_coefficient: NotNegative


STEP = 1e-6  # L/h, kPa between two rows of a map


class Curve(Record):
    """A pump map at one voltage: rows of flow [L/h], pressure rise [kPa] and, where known, current
    [A].
    """

    voltage_v: Annotated[float, above_zero(1000)] = 13.5
    rows: Annotated[
        list[Annotated[list[Finite], Field(min_length=2, max_length=3)]],
        Field(min_length=2, max_length=400),
    ]

    @model_validator(mode="after")
    def _falls(self) -> "Curve":
        for i, row in enumerate(self.rows):
            if row[0] < 0:
                raise ValueError(
                    f"row {i + 1}: flow {row[0]:g} L/h is below zero; start the table at 0"
                )
            if len(row) != len(self.rows[0]):
                raise ValueError(f"row {i + 1}: give the current in every row or in none")
            if i and row[0] - self.rows[i - 1][0] < STEP:
                raise ValueError(
                    f"row {i + 1}: flow {row[0]:g} L/h does not rise; sort the rows by flow, each flow once"
                )
            if i and self.rows[i - 1][1] - row[1] < STEP:
                raise ValueError(
                    f"row {i + 1}: pressure {row[1]:g} kPa does not fall; a plateau or a rise has no single flow at a pressure"
                )
        if self.rows[0][1] <= 0:
            raise ValueError(
                f"row 1: a pump's greatest pressure must be above zero, not {self.rows[0][1]:g} kPa"
            )
        return self

    def flow_at(self, kpa: float) -> float | None:
        """The flow [L/h] against a rise [kPa], straight between the rows; None outside them."""
        pairs = itertools.pairwise(self.rows)
        return next(
            (
                q0 + (p0 - kpa) / (p0 - p1) * (q1 - q0)
                for (q0, p0, *_), (q1, p1, *_) in pairs
                if p1 <= kpa <= p0
            ),
            None,
        )


class PumpMap(Record):
    """A pump by its maps. It never flows backward; its relief, where it has one, caps the rise. A
    turbine's rise and current go with the density of what it turns, against that of the fluid it
    was `measured_with` (the point's own when absent).
    """

    law: Literal["pump"] = "pump"
    curves: Annotated[list[Curve], Field(min_length=1, max_length=20)]
    kind: Literal["turbine", "roller", "gerotor"] = "turbine"
    interpolation: Literal["pchip", "linear"] = "pchip"
    relief_kpa: Positive | None = None
    measured_with: Fluid | None = None

    @model_validator(mode="after")
    def _sorted(self) -> "PumpMap":
        volts = [c.voltage_v for c in self.curves]
        if any(b <= a for a, b in itertools.pairwise(volts)):
            raise ValueError(
                f"the maps must stand in order of voltage, each voltage once, not {', '.join(f'{v:g} V' for v in volts)}"
            )
        return self


class Displacement(Record):
    """A pump driven by the engine: what one turn of it displaces, turns per turn of the engine, and
    its volumetric efficiency over pressure, as rows of [kPa, share] with falling share; the last
    row is where it stalls or relieves. `rated_rpm` are its own turns a minute that the efficiency
    was measured at; None: what it slips is taken to go with its speed.
    """

    law: Literal["displacement"] = "displacement"
    cc_per_turn: Positive
    ratio: Positive = 0.5
    efficiency: Annotated[list[tuple[NotNegative, NotNegative]], Field(min_length=2, max_length=50)]
    rated_rpm: Positive | None = None

    @model_validator(mode="after")
    def _falls(self) -> "Displacement":
        for i, (kpa, share) in enumerate(self.efficiency):
            if i and (kpa <= self.efficiency[i - 1][0] or share >= self.efficiency[i - 1][1]):
                raise ValueError(
                    f"row {i + 1}: pressure must rise and efficiency fall from row to row"
                )
        if self.efficiency[-1][1] > 0:
            raise ValueError("the last row says where it stalls: its efficiency is 0")
        return self


class Jet(Record):
    """A jet pump: fuel through a nozzle draws more along into a throat; losses of nozzle, suction,
    throat and diffuser by K.
    """

    law: Literal["jet"] = "jet"
    nozzle_mm: Bore
    throat_mm: Bore
    nozzle_loss: NotNegative = 0.05
    suction_loss: NotNegative = 0.1
    throat_loss: NotNegative = 0.2

    @model_validator(mode="after")
    def _fits(self) -> "Jet":
        if self.nozzle_mm >= 0.95 * self.throat_mm:
            raise ValueError(
                "the nozzle must be narrower than the throat, or nothing is drawn along"
            )
        return self


class Regulator(Record):
    """Holds its inlet (bypass) or outlet (dead-head) at set + reference + slope Q; wide open it is
    K on a bore.
    """

    law: Literal["regulator"] = "regulator"
    holds: Literal["inlet", "outlet"] = "inlet"
    set_kpa: Annotated[float, above_zero(20000)]
    slope_kpa_per_lph: NotNegative = 0.0
    wide_open_bore_mm: Bore
    wide_open_loss_coefficient: Positive
    reference: Literal["atmosphere", "manifold", "hat"] = Field(
        default="atmosphere", description="a carburetor's hat feels boost, never vacuum"
    )


class Injectors(Record):
    """All injectors at one node. `pulse`: open time is set for the commanded flow at
    `commanded_at_kpa` across them, so a sagging rail gives less. `compensated`: the control unit
    lengthens the pulse, or a float holds its needle open, up to their full flow.
    """

    law: Literal["injectors"] = "injectors"
    count: Annotated[int, Field(ge=1, le=48)] = 1
    commanded_at_kpa: Positive
    rated_lph: Positive | None = Field(
        default=None, description="one injector, fully open, at rated_kpa"
    )
    rated_kpa: Positive = 300.0
    rated_density_kg_m3: Annotated[float, Field(ge=100, le=5000)] = 684.0
    duty_limit: Annotated[float, above_zero(1)] = 0.85
    mode: Literal["pulse", "compensated"] = "pulse"
    into: Literal["manifold", "bowl"] = Field(
        default="manifold", description="a bowl feels boost and never vacuum"
    )
    own_lph: Positive | None = Field(
        default=None,
        description="an auxiliary tap's flow at commanded_at_kpa, open at full power and no part of the engine's demand",
    )

    @model_validator(mode="after")
    def _has_capacity(self) -> "Injectors":
        if self.mode == "compensated" and self.rated_lph is None:
            raise ValueError(
                "a compensated injector needs rated_lph: its full flow is its only limit"
            )
        return self


class TankLevel(Record):
    """A tank of fixed level: `level_mm` above its node; what stands over the fuel is the air, or
    gas at `gauge_kpa` (a pressed cell, ram air on a vent). One that `floats` is a header that falls
    full from its tank: it passes on what is drawn, and its level is where the sums put it.
    """

    law: Literal["tank"] = "tank"
    level_mm: Annotated[float, Field(ge=0, le=100000)] = 0.0
    level_source: Source = "assumed"
    gauge_kpa: Annotated[float, Field(ge=-50, le=200, description="gauge")] = 0.0
    floats: bool = False


class Air(Record):
    """A line that carries air or a pressure signal, not fuel: cut and fitted, never solved."""

    law: Literal["air"] = "air"
    bore_mm: Bore = 8.0


class Tap(Record):
    """A tap that reads and carries no flow: a gauge, a sender."""

    law: Literal["tap"] = "tap"


AnyLaw = (
    Tap
    | Pipe
    | Loss
    | Tee
    | Quadratic
    | Check
    | PumpMap
    | Displacement
    | Jet
    | Regulator
    | Injectors
    | TankLevel
    | Air
)
Law = Annotated[AnyLaw, Field(discriminator="law")]
LAW_NAMES = tuple(law.model_fields["law"].default for law in get_args(AnyLaw))
