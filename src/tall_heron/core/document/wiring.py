"""How the pumps are fed with current and what may stop them: branches, relays, fuses, wires,
cut-offs, battery, alternator and loads, level sender. What is None follows by rule.
"""

from typing import Annotated, Literal

from pydantic import Field, model_validator

from tall_heron.core.base.catalogue import by_name
from tall_heron.core.document.record import Name, Record, above_zero

Ampere = Annotated[float, above_zero(1000)]
Meters = Annotated[float, Field(ge=0, le=50000, description="mm")]
Seconds = Annotated[float, Field(ge=0, le=60)]
Ohm = Annotated[float, Field(ge=0, le=1e6)]
MOST_LOADS = 30
Guess = Literal["loads", "supply", "sender"]


class Conductor(Record):
    """One wire: its size by name (None: by rule), its length as measured [mm] (None: `reach_mm`, as
    far as its ends lay apart when somebody last looked), its color as the builder calls it.
    """

    size: Annotated[str, Field(max_length=12)] | None = None
    length_mm: Meters | None = None
    reach_mm: Meters = 2000.0
    colour: Annotated[str, Field(max_length=24)] = ""

    @model_validator(mode="after")
    def _known(self) -> "Conductor":
        if self.size is not None and self.size not in by_name("wires", "size"):
            raise ValueError(
                f"size: no wire of {self.size} is known; write one such as 2.5 mm² or AWG 14"
            )
        return self

    @property
    def long_mm(self) -> float:
        """Its length [mm], measured or as its ends lie."""
        return self.length_mm if self.length_mm is not None else self.reach_mm


class WiringBranch(Record):
    """What feeds one pump: its bus, the relay it hangs at (empty: none), its fuse [A], wires out
    and back, the ground point that the wire back goes to (empty: one of its own), how many crimps they have, what its connector and its switch are rated for
    [A], and whether a lamp shows that it has no current.
    """

    bus: Literal["1", "2"] = "1"
    relay: Annotated[str, Field(max_length=12)] = ""
    fuse_a: Ampere | None = None
    feed: Conductor = Field(default_factory=Conductor)
    earth: Conductor = Field(default_factory=Conductor)
    ground: Annotated[str, Field(max_length=12)] = ""
    crimps: Annotated[int, Field(ge=0, le=40)] = 4
    connector_a: Ampere | None = None
    switch_a: Ampere | None = None
    lamp: bool = False


class Relay(Record):
    """A relay: its contact's rating at a motor [A], the wire from the source to its terminal 30
    with a fuse of its own [A], whether its coil is suppressed, what is on its terminal 87a. What
    is None follows by rule.
    """

    name: Annotated[str, Field(min_length=1, max_length=12)]
    contact_a: Ampere | None = None
    supply: Conductor = Field(default_factory=lambda: Conductor(reach_mm=300.0))
    fuse_a: Ampere | None = None
    suppressed: bool = True
    terminal_87a: Literal["not there", "capped", "open", "used"] = "capped"


class GroundPoint(Record):
    """Where several pumps are grounded together, and the one wire on from there to the battery's
    negative.
    """

    name: Annotated[str, Field(min_length=1, max_length=12)]
    wire: Conductor = Field(default_factory=lambda: Conductor(reach_mm=1000.0))


class CutOff(Record):
    """What lets pumps run and what stops them. A pump runs for the prime timer, while cranking,
    with oil pressure, or when the control unit says so; inertia and roll-over latch, and what opens
    then `breaks` the relay's coil or the supply itself. `automatic` is False where each pump has a
    switch and nothing else.
    """

    automatic: bool = True
    prime_s: Seconds = 2.0
    crank: bool = True
    oil_switch: bool = False
    oil_falls_s: Seconds = 3.0
    start_bypass: bool = True
    control_unit: bool = True
    control_unit_s: Seconds = 1.0
    inertia: bool = True
    roll_over: bool = False
    breaks: Literal["coil", "supply"] = "coil"
    kill: Literal["none", "battery", "battery and alternator"] = "none"
    level: bool = False


class Load(Record):
    """Something else that takes current [A]; `flying` are those that stay on when the pilot sheds
    what he can.
    """

    name: Annotated[str, Field(min_length=1, max_length=40)]
    ampere: Annotated[float, Field(ge=0, le=500)]
    kept: bool = True


class Supply(Record):
    """Battery and alternator: capacity [Ah], whether it is new, the alternator's label [A], what of
    that it gives hot at cruise and at idle [-] (None: by rule), how long the battery alone should
    last [min], and which meters somebody looks at.
    """

    battery_ah: Annotated[float, Field(ge=1, le=500)] = 60.0
    aged: bool = False
    alternator_a: Annotated[float, Field(ge=0, le=1000)] = 70.0
    hot_share: Annotated[float, above_zero(1)] | None = None
    idle_share: Annotated[float, above_zero(1)] | None = None
    voltmeter: bool = False
    ammeter: bool = False
    landing_min: Annotated[float, Field(ge=0, le=600)] = 30.0


class Sender(Record):
    """A level sender in its divider: ohms empty and full, the resistor that pulls it up [ohm], its
    supply [V], the bits and range of what reads it, how much is left at the reserve mark [-].
    """

    empty_ohm: Ohm = 240.0
    full_ohm: Ohm = 33.0
    pull_up_ohm: Annotated[float, above_zero(1e6)] = 100.0
    supply_v: Annotated[float, above_zero(60)] = 5.0
    bits: Annotated[int, Field(ge=4, le=24)] = 10
    range_v: Annotated[float, above_zero(60)] = 5.0
    reserve: Annotated[float, Field(ge=0, le=1)] = 0.15


class Wiring(Record):
    """The wiring of a build. `ambient_c` is the air round its wires, `together` how many lie in one
    bundle, `insulation_c` what their insulation stands.
    """

    branches: Annotated[dict[Name, WiringBranch], Field(max_length=24)] = Field(
        default_factory=dict
    )
    relays: Annotated[list[Relay], Field(max_length=24)] = Field(default_factory=list)
    grounds: Annotated[list[GroundPoint], Field(max_length=24)] = Field(default_factory=list)
    cut_off: CutOff = Field(default_factory=CutOff)
    supply: Supply = Field(default_factory=Supply)
    loads: Annotated[list[Load], Field(max_length=MOST_LOADS)] = Field(default_factory=list)
    sender: Sender = Field(default_factory=Sender)
    ambient_c: Annotated[float, Field(ge=-40, le=140)] = 50.0
    together: Annotated[int, Field(ge=1, le=60)] = 4
    insulation_c: Annotated[float, Field(ge=60, le=260)] = 105.0
    sizes: Literal["metric", "AWG"] = "metric"
    guessed: Annotated[list[Guess], Field(max_length=3)] = Field(
        default_factory=list, description="what nobody has said yet"
    )

    @model_validator(mode="after")
    def _joined(self) -> "Wiring":
        names = [r.name for r in self.relays]
        if len(set(names)) < len(names):
            raise ValueError("relays: each relay has a name of its own")
        points = [g.name for g in self.grounds]
        if len(set(points)) < len(points):
            raise ValueError("grounds: each ground point has a name of its own")
        for pump, branch in self.branches.items():
            if branch.ground and branch.ground not in points:
                raise ValueError(
                    f"branches/{pump}/ground: there is no ground point {branch.ground}"
                )
            if branch.relay and branch.relay not in names:
                raise ValueError(f"branches/{pump}/relay: there is no relay {branch.relay}")
        return self

    @property
    def alternator_said(self) -> float | None:
        """The label of the alternator [A]; None until somebody has said it."""
        return None if "supply" in self.guessed else self.supply.alternator_a

    @property
    def free_relay(self) -> str:
        """A name that no relay has yet."""
        known = {r.name for r in self.relays}
        return next(name for i in range(1, len(known) + 2) if (name := f"R{i}") not in known)

    def relay(self, name: str) -> Relay | None:
        """The relay of a name."""
        return next((r for r in self.relays if r.name == name), None)

    def without(self, names: set[str]) -> "Wiring":
        """The same, of a circuit that only has pumps of these names left; a relay or a ground point
        without a branch goes too.
        """
        branches = {k: b for k, b in self.branches.items() if k in names}
        used = {b.relay for b in branches.values()}
        grounded = {b.ground for b in branches.values()}
        return self.model_copy(
            update={
                "branches": branches,
                "relays": [r for r in self.relays if r.name in used],
                "grounds": [g for g in self.grounds if g.name in grounded],
            }
        )
