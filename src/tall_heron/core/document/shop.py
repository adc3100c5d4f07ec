"""What bench and buying are told of a build: ports looked at, adapters chosen, what is made where,
what is there already, what waits for spring, plate, rail and injectors.
"""

from typing import Annotated, Literal, get_args

from pydantic import Field, model_validator

from tall_heron.core.document.faces import FaceText
from tall_heron.core.document.record import Name, Record, above_zero

ItemKey = Annotated[str, Field(min_length=1, max_length=80)]
Millimeters = Annotated[float, Field(ge=0, le=5000)]
MOST_PLATE = 24
Alloy = Literal["5052-H32", "6061-T6", "3003-H14", "2024-T3", "mild steel"]
ALLOYS: tuple[str, ...] = get_args(Alloy)


class Money(Record):
    """What prices are shown in: a currency by its three letters, and how much of it one of the
    shelf's dollars is.
    """

    currency: Annotated[str, Field(pattern=r"^[A-Z]{3}$")] = "USD"
    rate: Annotated[float, above_zero(100000)] = 1.0


class Source(Record):
    """Who has an item, in the builder's words, and in how many days it is there, where he says."""

    supplier: Annotated[str, Field(min_length=1, max_length=60)]
    days: Annotated[int, Field(ge=0, le=730)] | None = None


class OrderHead(Record):
    """What stands over an order for made hoses: its number, who orders, and how to reach him."""

    number: Annotated[str, Field(max_length=40)] = ""
    by: Annotated[str, Field(max_length=80)] = ""
    reach: Annotated[str, Field(max_length=120)] = ""


class OnPlate(Record):
    """Where a part lies on a plate: the middle of its body from the lower left corner [mm], turned
    by quarter turns or any angle [deg].
    """

    part: Name
    x_mm: Millimeters
    y_mm: Millimeters
    turned_deg: Annotated[float, Field(ge=-360, le=360)] = 0.0
    across_mm: Annotated[float, Field(ge=8, le=200)] | None = Field(
        default=None, description="its body across, measured; what its clamps go by"
    )


class Fold(Record):
    """An edge of the plate that is folded up: how high [mm], on which side."""

    side: Literal["left", "right", "top", "bottom"]
    mm: Annotated[float, above_zero(300)]


class Plate(Record):
    """A removable plate: its flat sides without folds [mm], its thickness, what lies on it, where
    its own screws go as slots, its folds.
    """

    wide_mm: Annotated[float, Field(ge=20, le=2000)]
    high_mm: Annotated[float, Field(ge=20, le=2000)]
    thick_mm: Annotated[float, Field(ge=0.5, le=12)] = 2.5
    alloy: Alloy = "5052-H32"
    radius_mm: Annotated[float, Field(ge=0.2, le=60)] | None = Field(
        default=None,
        description="inside radius of its folds; the least of its alloy and gauge where not specified",
    )
    parts: Annotated[list[OnPlate], Field(max_length=MOST_PLATE)] = Field(default_factory=list)
    screw_mm: Annotated[float, Field(ge=3, le=16)] = 6.0
    slot_mm: Annotated[float, Field(ge=0, le=60)] = 8.0
    inset_mm: Annotated[float, Field(ge=5, le=200)] = 15.0
    folds: Annotated[list[Fold], Field(max_length=4)] = Field(default_factory=list)

    @model_validator(mode="after")
    def _once(self) -> "Plate":
        names = [p.part for p in self.parts]
        if len(set(names)) < len(names):
            raise ValueError("a part lies on the plate once")
        if len({f.side for f in self.folds}) < len(self.folds):
            raise ValueError("a side is folded once")
        return self


class InjectorFit(Record):
    """How injectors sit between rail and manifold: from seat to seat [mm], bores of both [mm], and
    the room over the plug [mm].
    """

    gap_mm: Annotated[float, Field(ge=5, le=300)] | None = None
    rail_bore_mm: Annotated[float, Field(ge=5, le=40)] | None = None
    manifold_bore_mm: Annotated[float, Field(ge=5, le=40)] | None = None
    plug_room_mm: Annotated[float, Field(ge=0, le=300)] | None = None


class RailTap(Record):
    """A rail that is drilled for a port: its outside across the port [mm], its bore [mm], the
    port's face, and how deep it may be drilled [mm].
    """

    across_mm: Annotated[float, Field(ge=5, le=120)] | None = None
    bore_mm: Annotated[float, Field(ge=2, le=80)] | None = None
    port: FaceText | None = None
    deep_mm: Annotated[float, Field(ge=1, le=200)] | None = None


class Shop(Record):
    """What somebody said for bench and buying; everything else follows by rule. Keys of `joints`
    name a joint as `H3.a`; keys of `have`, `prices` and `suppliers` name a line of the buy list.
    """

    faces: dict[Name, dict[Annotated[str, Field(max_length=20)], FaceText]] = Field(
        default_factory=dict
    )
    joints: dict[
        Annotated[str, Field(max_length=60)], Annotated[list[ItemKey], Field(max_length=4)]
    ] = Field(default_factory=dict)
    made: dict[Name, Literal["bench", "car"]] = Field(default_factory=dict)
    have: dict[ItemKey, Annotated[float, Field(ge=0, le=100000)]] = Field(default_factory=dict)
    prices: dict[ItemKey, Annotated[float, Field(ge=0, le=1e6)]] = Field(default_factory=dict)
    suppliers: dict[ItemKey, Source] = Field(default_factory=dict)
    offcuts: dict[
        ItemKey, Annotated[list[Annotated[float, Field(ge=10, le=100000)]], Field(max_length=20)]
    ] = Field(default_factory=dict)
    later: dict[Name, ItemKey] = Field(
        default_factory=dict, description="part to the shelf part that takes its place in spring"
    )
    stock: Literal["coils", "by the foot", "both"] = "both"
    order: OrderHead = Field(default_factory=OrderHead)
    money: Money = Field(default_factory=Money)
    plate: Plate | None = None
    injectors: InjectorFit = Field(default_factory=InjectorFit)
    rail: RailTap = Field(default_factory=RailTap)
    tank_gap_mm: dict[Name, Annotated[float, Field(ge=0, le=200)]] = Field(
        default_factory=dict, description="how far a pickup stands over a tank's floor"
    )

    def without(self, names: set[str]) -> "Shop":
        """The same, of a circuit that only has parts of these names left."""
        plate = self.plate
        if plate is not None and any(p.part not in names for p in plate.parts):
            plate = plate.model_copy(update={"parts": [p for p in plate.parts if p.part in names]})
        return self.model_copy(
            update={
                "faces": {k: v for k, v in self.faces.items() if k in names},
                "joints": {k: v for k, v in self.joints.items() if k.rpartition(".")[0] in names},
                "made": {k: v for k, v in self.made.items() if k in names},
                "later": {k: v for k, v in self.later.items() if k in names},
                "tank_gap_mm": {k: v for k, v in self.tank_gap_mm.items() if k in names},
                "plate": plate,
            }
        )
