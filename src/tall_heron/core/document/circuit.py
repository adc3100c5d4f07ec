"""Nodes and elements of a fuel circuit, as they stand in a build's document; no equations here.

Document figures carry their unit in the name. A kind says which ports and links an element has; a law says how a link resists. Forty kinds need
eight laws.
"""

import itertools
from collections.abc import Callable
from typing import Annotated, Any, Literal, TypeVar, get_args

from pydantic import Field, model_validator

from tall_heron.core.document.faces import FaceText
from tall_heron.core.document.kinds import KINDS
from tall_heron.core.document.properties import Properties
from tall_heron.core.document.record import GUESSES, Bore, Finite, Name, NotNegative, Positive, Record, Source

Made = TypeVar("Made")


class Fluid(Record):
    """A fluid given by its figures."""

    density_kg_m3: Annotated[float, Field(ge=100, le=5000)]
    viscosity_mpa_s: Annotated[float, Field(ge=0.01, le=10000)]


class Pipe(Record):
    """Straight bore with friction; `loss_coefficient` is on its own bore; `friction_factor_times` is for convoluted bores."""

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


class Curve(Record):
    """A pump map at one voltage: rows of flow [L/h], pressure rise [kPa] and, where known, current [A]."""

    voltage_v: Annotated[float, Field(gt=0, le=1000)] = 13.5
    rows: Annotated[list[Annotated[list[Finite], Field(min_length=2, max_length=3)]], Field(min_length=2, max_length=400)]

    @model_validator(mode="after")
    def _falls(self) -> "Curve":
        for i, row in enumerate(self.rows):
            if row[0] < 0:
                raise ValueError(f"row {i + 1}: flow {row[0]:g} L/h is below zero; start the table at 0")
            if len(row) != len(self.rows[0]):
                raise ValueError(f"row {i + 1}: give the current in every row or in none")
            if i and row[0] <= self.rows[i - 1][0]:
                raise ValueError(f"row {i + 1}: flow {row[0]:g} L/h does not rise; sort the rows by flow, each flow once")
            if i and row[1] >= self.rows[i - 1][1]:
                raise ValueError(
                    f"row {i + 1}: pressure {row[1]:g} kPa does not fall; a plateau or a rise has no single flow at a pressure"
                )
        if self.rows[0][1] <= 0:
            raise ValueError(f"row 1: a pump's greatest pressure must be above zero, not {self.rows[0][1]:g} kPa")
        return self

    def flow_at(self, kpa: float) -> float | None:
        """The flow [L/h] against a rise [kPa], straight between the rows; None outside them."""
        pairs = itertools.pairwise(self.rows)
        return next((q0 + (p0 - kpa) / (p0 - p1) * (q1 - q0) for (q0, p0, *_), (q1, p1, *_) in pairs if p1 <= kpa <= p0), None)


class PumpMap(Record):
    """A pump by its maps. It never flows backward; its relief, where it has one, caps the rise. A turbine's rise and current go with the density of what it turns,
    against that of the fluid it was `measured_with` (the point's own when absent)."""

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
            raise ValueError(f"the maps must stand in order of voltage, each voltage once, not {', '.join(f'{v:g} V' for v in volts)}")
        return self


class Displacement(Record):
    """A pump driven by the engine: what one turn of it displaces, turns per turn of the engine, and its volumetric efficiency over pressure, as rows of
    [kPa, share] with falling share; the last row is where it stalls or relieves."""

    law: Literal["displacement"] = "displacement"
    cc_per_turn: Positive
    ratio: Positive = 0.5
    efficiency: Annotated[list[tuple[NotNegative, NotNegative]], Field(min_length=2, max_length=50)]

    @model_validator(mode="after")
    def _falls(self) -> "Displacement":
        for i, (kpa, share) in enumerate(self.efficiency):
            if i and (kpa <= self.efficiency[i - 1][0] or share >= self.efficiency[i - 1][1]):
                raise ValueError(f"row {i + 1}: pressure must rise and efficiency fall from row to row")
        if self.efficiency[-1][1] > 0:
            raise ValueError("the last row says where it stalls: its efficiency is 0")
        return self


class Jet(Record):
    """A jet pump: fuel through a nozzle draws more along into a throat; losses of nozzle, suction, throat and diffuser by K."""

    law: Literal["jet"] = "jet"
    nozzle_mm: Bore
    throat_mm: Bore
    nozzle_loss: NotNegative = 0.05
    suction_loss: NotNegative = 0.1
    throat_loss: NotNegative = 0.2

    @model_validator(mode="after")
    def _fits(self) -> "Jet":
        if self.nozzle_mm >= 0.95 * self.throat_mm:
            raise ValueError("the nozzle must be narrower than the throat, or nothing is drawn along")
        return self


class Regulator(Record):
    """Holds its inlet (bypass) or outlet (dead-head) at set + reference + slope Q; wide open it is K on a bore."""

    law: Literal["regulator"] = "regulator"
    holds: Literal["inlet", "outlet"] = "inlet"
    set_kpa: Annotated[float, Field(gt=0, le=20000)]
    slope_kpa_per_lph: NotNegative = 0.0
    wide_open_bore_mm: Bore
    wide_open_loss_coefficient: Positive
    reference: Literal["atmosphere", "manifold", "hat"] = Field(
        default="atmosphere", description="a carburettor's hat feels boost, never vacuum"
    )


class Injectors(Record):
    """All injectors at one node. `pulse`: open time is set for the commanded flow at `commanded_at_kpa` across them, so a sagging rail gives less.
    `compensated`: the control unit lengthens the pulse, or a float holds its needle open, up to their full flow."""

    law: Literal["injectors"] = "injectors"
    count: Annotated[int, Field(ge=1, le=48)] = 1
    commanded_at_kpa: Positive
    rated_lph: Positive | None = Field(default=None, description="one injector, fully open, at rated_kpa")
    rated_kpa: Positive = 300.0
    rated_density_kg_m3: Annotated[float, Field(ge=100, le=5000)] = 684.0
    duty_limit: Annotated[float, Field(gt=0, le=1)] = 0.85
    mode: Literal["pulse", "compensated"] = "pulse"
    into: Literal["manifold", "bowl"] = Field(default="manifold", description="a bowl feels boost and never vacuum")
    own_lph: Positive | None = Field(
        default=None, description="an auxiliary tap's flow at commanded_at_kpa, open at full power and no part of the engine's burn"
    )

    @model_validator(mode="after")
    def _has_capacity(self) -> "Injectors":
        if self.mode == "compensated" and self.rated_lph is None:
            raise ValueError("a compensated injector needs rated_lph: its full flow is its only limit")
        return self



class TankLevel(Record):
    """A tank of fixed level: `level_mm` above its node; what stands over the fuel is the air, or gas at `gauge_kpa` (a pressed cell, ram air on a vent). One that
    `floats` is a header that falls full from its tank: it passes on what is drawn, and its level is where the sums put it."""

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


AnyLaw = Tap | Pipe | Loss | Tee | Quadratic | Check | PumpMap | Displacement | Jet | Regulator | Injectors | TankLevel | Air
Law = Annotated[AnyLaw, Field(discriminator="law")]
LAW_NAMES = tuple(law.model_fields["law"].default for law in get_args(AnyLaw))


class Node(Record):
    """A place with one pressure; `ahead_mm` is how far ahead of the first tank it lies, reckoned from the lengths of lines where nobody has said, `right_mm` how far to the right of the
    vehicle's middle, taken as in the middle until somebody says; `place_source` says where these two come from."""

    id: Name
    elevation_mm: Annotated[float, Field(ge=-100000, le=100000)] = 0.0
    source: Source = "assumed"
    ahead_mm: Annotated[float, Field(ge=-100000, le=100000)] | None = None
    right_mm: Annotated[float, Field(ge=-100000, le=100000)] | None = None
    place_source: Source = "assumed"


class Length(Record):
    """Face to face length and where the figure comes from; `bends_loss_coefficient` is K of the bends of its drawn way, on its own bore."""

    mm: Annotated[float, Field(ge=1, le=1e6)]
    source: Source = "typed"
    typed: Annotated[str, Field(max_length=200)] | None = Field(default=None, description="the text it was typed as")
    bends_loss_coefficient: NotNegative = 0.0

    @property
    def guessed(self) -> bool:
        """Whether nobody has measured it, or drawn it in a vehicle that was measured."""
        return self.source in GUESSES


class End(Record):
    """A hose end; its K is on its own throat. One that says its legs (seat to corner, corner to socket) and how far hose goes into it is drawn with them; `face` is what it screws onto."""

    shelf: str | None = None
    family: str = ""
    dash: str = ""
    angle_deg: Annotated[float, Field(ge=0, le=180)] = 0.0
    take_up_mm: Annotated[float, Field(ge=0, le=500)]
    provenance: Literal["sheet", "measured", "guessed"] = "sheet"
    throat_bore_mm: Bore
    leg_a_mm: Annotated[float, Field(ge=0, le=500)] | None = None
    leg_b_mm: Annotated[float, Field(ge=0, le=500)] | None = None
    inserted_mm: Annotated[float, Field(ge=0, le=200)] | None = None
    face: FaceText = ""
    loss_coefficient: NotNegative = 0.0
    price: NotNegative | None = None
    mass_kg: NotNegative | None = None

    @model_validator(mode="after")
    def _adds_up(self) -> "End":
        legs = (self.leg_a_mm, self.leg_b_mm, self.inserted_mm)
        if any(x is not None for x in legs):
            if None in legs:
                raise ValueError("give both legs and how far the hose goes in, or none of them")
            if abs(sum(legs[:2]) - legs[2] - self.take_up_mm) > 0.05:  # type: ignore[arg-type, operator]
                raise ValueError(f"legs of {sum(legs[:2]):g} mm less {legs[2]:g} mm of hose in it are not the {self.take_up_mm:g} mm it takes up")  # type: ignore[arg-type]
        return self


class Stage(Record):
    """When a staged pump runs: from a boost [kPa gauge], an engine speed [rpm] or a share of injector duty [0 to 1] on, or by a switch that is thrown for full power. It goes
    off again at `off_at`, or where nothing is said at the same."""

    by: Literal["boost", "speed", "duty", "switch"]
    at: NotNegative = 0.0
    off_at: NotNegative | None = None

    @model_validator(mode="after")
    def _can_be(self) -> "Stage":
        if self.off_at is not None and self.off_at > self.at:
            raise ValueError("a stage goes off no higher than it comes on: off_at is above at")
        if self.by == "duty" and self.at > 1:
            raise ValueError(f"a duty is at most 100 %, not {100 * self.at:g} %")
        return self


class Element(Record):
    """One part: `ports` maps each port of its kind to a node; `figures` are its own, copied when fitted, so a later change of the shelf
    changes no old build; `shelf` names where they came from."""

    id: Name
    kind: str
    title: Annotated[str, Field(max_length=200)] = ""
    ports: dict[str, Name] = Field(default_factory=dict)
    figures: Law
    shelf: str | None = None
    properties: Properties = Field(default_factory=Properties)
    length: Length | None = None
    end_a: End | None = None
    end_b: End | None = None
    clock_deg: Annotated[float, Field(ge=0, lt=360)] | None = None
    clock_source: Source = "assumed"
    role: Literal["feed", "return", "suction", "vent", "reference"] = "feed"
    runs: Annotated[str, Field(max_length=200)] = ""
    reversed: bool = False
    stage: Stage | None = None

    @model_validator(mode="after")
    def _fits_kind(self) -> "Element":
        kind = KINDS.get(self.kind)
        if kind is None:
            raise ValueError(f"“{self.kind}” is not a kind of part; use one of {', '.join(KINDS)}")
        if set(self.ports) != set(kind.ports):
            raise ValueError(f"a {kind.word} has the ports {', '.join(kind.ports) or 'none'}, not {', '.join(self.ports) or 'none'}")
        if self.figures.law not in kind.laws:
            raise ValueError(f"a {kind.word} takes the law {' or '.join(kind.laws)}, not {self.figures.law}")
        if self.figures.law == "pipe" and self.length is None:
            raise ValueError(f"a {kind.word} needs its length")
        if len(set(self.ports.values())) < len(self.ports):
            raise ValueError("two ports stand on the same node, so nothing can flow through the part")
        return self


MEMORY = "what is made of it once"  # where a circuit keeps that; no field, so no document holds it
Memory = dict[str, tuple[list[Element], Any]]


class Circuit(Record):
    """Nodes and elements; `template` names the layout that made them, if one did."""

    template: str | None = None
    nodes: Annotated[list[Node], Field(max_length=2000)]
    elements: Annotated[list[Element], Field(max_length=2000)]

    def kept(self, name: str, make: Callable[["Circuit"], Made]) -> Made:
        """What is made of the circuit once, under a name; a circuit never changes in place, and a copy with other elements makes it anew."""
        own = self.__dict__  # a private attribute of pydantic's is ten times slower to read, and this is read thousands of times an edit
        memory: Memory = own.get(MEMORY, {})
        known = memory.get(name)
        if known is None or known[0] is not own["elements"]:
            known = own["elements"], make(self)
            own[MEMORY] = {**own.get(MEMORY, {}), name: known}
        made: Made = known[1]
        return made

    def __eq__(self, other: object) -> bool:
        """Whether the documents are the same."""
        return isinstance(other, Circuit) and (self.template, self.nodes, self.elements) == (other.template, other.nodes, other.elements)

    __hash__ = None  # type: ignore[assignment]

    @model_validator(mode="after")
    def _hangs_together(self) -> "Circuit":
        seen: set[str] = set()
        for node in self.nodes:
            if node.id in seen:
                raise ValueError(f"the node {node.id} stands twice")
            seen.add(node.id)
        names: set[str] = set()
        for element in self.elements:
            if element.id in names:
                raise ValueError(f"the part {element.id} stands twice")
            names.add(element.id)
            for port, node_id in element.ports.items():
                if node_id not in seen:
                    raise ValueError(f"the part {element.id} has its {port} at the node {node_id}, which is not in nodes")
        tanks: dict[str, str] = {}
        for element in self.elements:
            if element.kind == "tank":
                node_id = element.ports["outlet"]
                if node_id in tanks:
                    raise ValueError(f"the tanks {tanks[node_id]} and {element.id} stand on one node; join them with a line")
                tanks[node_id] = element.id
        return self

    def element(self, element_id: str) -> Element | None:
        """The element of an id, or None."""
        return next((e for e in self.elements if e.id == element_id), None)

    def of_kind(self, *kinds: str) -> list[Element]:
        """The elements of some kinds, in document order."""
        return [e for e in self.elements if e.kind in kinds]
