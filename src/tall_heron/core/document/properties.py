"""What a part is made of and made for."""

from typing import Annotated, Literal

from pydantic import Field

from tall_heron.core.document.faces import FaceText
from tall_heron.core.document.record import Bore, Finite, NotNegative, Positive, Record, above_zero
from tall_heron.core.document.tank_inside import Inside

LONGEST_MM = 20_000.0  # no part of a vehicle is longer; what draws them counts on it
Side = Annotated[float, above_zero(LONGEST_MM)]


class OwnEnds(Record):
    """The ends that a hose of the builder's own takes: how they are `fitted`, what a straight and a
    bent one takes up [mm], seat to where the hose stops, and the bore at the throat [mm].
    """

    fitted: Literal["olive", "screwed", "push-on", "crimped"]
    take_up_mm: Annotated[float, Field(ge=0, le=500)]
    bent_take_up_mm: Annotated[float, Field(ge=0, le=500)]
    throat_bore_mm: Bore


class Properties(Record):
    """What a part is made of and made for, copied when fitted, so that a later change of the shelf
    changes no old build. Nothing here is solved.

    A hose's price and mass are per meter. A tank's box is inside, `high_mm` without its sump, its
    volume with it; `outlet_mm` is how high its outlet or pickup stands over its lowest point,
    `pot_l` what a pot inside it holds, `openings` how many threaded openings it has; `vented` says
    that it breathes through a valve of its own, `drained` that water can be let out at its lowest
    place; `drop_tube` that an inlet leads down under the fuel, `level_gauge` that one who drives or
    flies sees its level. `dead_heads` says that a pump is made to work against a shut line.
    `relieves` says that a valve shut by hand still lets out fuel that warms behind it. `mount` says
    where a pump or regulator is made to sit, or what a strainer or fitting is (gascolator, hanger).
    `faces` are its threads by port, where the shelf's data has none of them; `terminals` what its
    wires end in; `brushless` that its motor needs a controller, `controller_a` what the one that
    comes with it is rated. `gasoline`, `methanol` and `avgas` are what its maker says of each; None
    where nobody has said.
    """

    family: str = ""
    dash: str = ""
    medium: str = ""
    micron: Positive | None = None
    ethanol_max_percent: Annotated[float, Field(ge=0, le=100)] | None = None
    methanol: bool | None = None
    gasoline: bool | None = None
    avgas: bool | None = None
    immersion: bool | None = None
    working_kpa: Positive | None = None
    bend_radius_mm: Positive | None = None
    rated_kpa: Positive | None = None
    set_min_kpa: Positive | None = None
    set_max_kpa: Positive | None = None
    suction_need_kpa: NotNegative | None = None
    inlet_height_max_mm: Finite | None = None
    mount: str = ""
    speed_control: bool | None = None
    noise: str = ""
    passes_stopped: bool | None = None
    dead_heads: bool | None = None
    relieves: bool | None = None
    conductive: bool | None = None
    ends: OwnEnds | None = None
    standard: Annotated[str, Field(max_length=60)] = ""
    liner: Annotated[str, Field(max_length=60)] = ""
    braid: Annotated[str, Field(max_length=60)] = ""
    cover: Annotated[str, Field(max_length=60)] = ""
    capacity_l: Positive | None = None
    long_mm: Side | None = None
    wide_mm: Side | None = None
    high_mm: Side | None = None
    foam: bool | None = None
    baffles: bool | None = None
    outlet_mm: Annotated[float, Field(ge=0, le=LONGEST_MM)] | None = None
    sump_l: Positive | None = None
    sump_mm: Side | None = None
    pot_l: Positive | None = None
    inside: Inside | None = None
    level_gauge: bool | None = None
    vented: bool | None = None
    drained: bool | None = None
    drop_tube: bool | None = None
    openings: Annotated[int, Field(ge=0, le=40)] | None = None
    body_mm: Side | None = None
    faces: (
        Annotated[dict[Annotated[str, Field(max_length=20)], FaceText], Field(max_length=12)] | None
    ) = None
    terminals: Literal["blade", "wide blade", "lug"] | None = None
    brushless: bool | None = None
    controller_a: Positive | None = None
    dead_time_12v_ms: NotNegative | None = None
    dead_time_14v_ms: NotNegative | None = None
    flow_tolerance: Annotated[float, Field(ge=0, lt=1)] | None = None
    provenance: Literal["sheet", "measured", "guessed"] = "sheet"
    price: NotNegative | None = None
    mass_kg: NotNegative | None = None

    def within_setting(self, kpa: float) -> float:
        """A pressure [kPa] brought within what the screw of a regulator reaches."""
        return max(self.set_min_kpa or kpa, min(self.set_max_kpa or kpa, kpa))
