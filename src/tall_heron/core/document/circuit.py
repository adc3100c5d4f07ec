"""Nodes and elements of a fuel circuit, as they stand in a build's document; no equations here. A
kind says which ports and links an element has; the law of its figures how a link resists.
"""

from collections.abc import Callable, Hashable
from typing import Annotated, Any, Concatenate, Literal, ParamSpec, TypeVar

from pydantic import AfterValidator, Field, model_validator

from tall_heron.core.base.catalogue import by_name
from tall_heron.core.document.faces import FaceText
from tall_heron.core.document.figures import Law
from tall_heron.core.document.kinds import KINDS
from tall_heron.core.document.properties import Properties
from tall_heron.core.document.record import GUESSES, Bore, Name, NotNegative, Record, Source

Value = TypeVar("Value")
Asks = ParamSpec("Asks")


class Node(Record):
    """A place with one pressure; `ahead_mm` is how far ahead of the first tank it lies, reckoned
    from the lengths of lines where nobody has said, `right_mm` how far to the right of the
    vehicle's middle, taken as in the middle until somebody says; `place_source` says where these
    two come from.
    """

    id: Name
    elevation_mm: Annotated[float, Field(ge=-100000, le=100000)] = 0.0
    source: Source = "assumed"
    ahead_mm: Annotated[float, Field(ge=-100000, le=100000)] | None = None
    right_mm: Annotated[float, Field(ge=-100000, le=100000)] | None = None
    place_source: Source = "assumed"


class Length(Record):
    """Face to face length and where the figure comes from; `bends_loss_coefficient` is K of the
    bends of its drawn way, on its own bore.
    """

    mm: Annotated[float, Field(ge=1, le=1e6)]
    source: Source = "typed"
    typed: Annotated[str, Field(max_length=200)] | None = Field(
        default=None, description="the text it was typed as"
    )
    bends_loss_coefficient: NotNegative = 0.0

    @property
    def guessed(self) -> bool:
        """Whether nobody has measured it, or drawn it in a vehicle that was measured."""
        return self.source in GUESSES


class End(Record):
    """A hose end; its K is on its own throat. One that says its legs (seat to corner, corner to
    socket) and how far hose goes into it is drawn with them; `face` is what it screws onto.
    """

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
                raise ValueError(
                    f"legs of {sum(legs[:2]):g} mm less {legs[2]:g} mm of hose in it are not the {self.take_up_mm:g} mm cut-off allowance"  # type: ignore[arg-type]
                )
        return self


class Stage(Record):
    """When a staged pump runs: from a boost [kPa gauge], an engine speed [rpm] or a share of
    injector duty [0 to 1] on, or by a switch that is thrown for full power. It goes off again at
    `off_at`, or where nothing is said at the same.
    """

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


ADAPTERS = "adapters that its connections need"  # where an element keeps them; no field, so no document holds them
Losses = dict[str, tuple[tuple[float, float], ...]]


def full_turn(degrees: float) -> float:
    """An angle [deg] with a whole turn taken as none.

    >>> full_turn(360.0), full_turn(90.0)
    (0.0, 90.0)
    """
    return degrees % 360


class Element(Record):
    """One part: `ports` maps each port of its kind to a node; `figures` are its own, copied when
    fitted, so a later change of the shelf changes no old build; `shelf` names where they came from.
    """

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
    clock_deg: Annotated[float, Field(ge=0, le=360), AfterValidator(full_turn)] | None = None
    clock_source: Source = "assumed"
    role: Literal["feed", "return", "suction", "vent", "reference"] = "feed"
    runs: Annotated[str, Field(max_length=200)] = ""
    reversed: bool = False
    stage: Stage | None = None
    mounting: Annotated[str, Field(max_length=20)] | None = None

    @property
    def adapters(self) -> Losses:
        """What the adapters at its ports take that its joints need and the circuit does not draw: K
        and the bore [mm] that K is on, of each, by the port.
        """
        out: Losses = self.__dict__.get(ADAPTERS, {})
        return out

    def with_adapters(self, losses: Losses) -> "Element":
        """The part with other adapters at its ports."""
        new = self.model_copy()
        new.__dict__[ADAPTERS] = losses
        return new

    @model_validator(mode="after")
    def _fits_kind(self) -> "Element":
        kind = KINDS.get(self.kind)
        if kind is None:
            raise ValueError(f"“{self.kind}” is not a kind of part; use one of {', '.join(KINDS)}")
        if set(self.ports) != set(kind.ports):
            raise ValueError(
                f"a {kind.word} has the ports {', '.join(kind.ports) or 'none'}, not {', '.join(self.ports) or 'none'}"
            )
        if self.figures.law not in kind.laws:
            raise ValueError(
                f"a {kind.word} takes the law {' or '.join(kind.laws)}, not {self.figures.law}"
            )
        if self.figures.law == "pipe" and self.length is None:
            raise ValueError(f"a {kind.word} needs its length")
        if self.mounting is not None and self.mounting not in by_name("soft_mounts"):
            raise ValueError(f"mounting: none of {', '.join(by_name('soft_mounts'))}")
        if len(set(self.ports.values())) < len(self.ports):
            raise ValueError(
                "two ports stand on the same node, so nothing can flow through the part"
            )
        return self


MEMORY = "what is made of it once"  # where a circuit keeps that; no field, so no document holds it
Memory = dict[tuple[Hashable, ...], tuple[list[Element], list[Node], Any]]


class Circuit(Record):
    """Nodes and elements; `template` names the layout that made them, if one did."""

    template: str | None = None
    nodes: Annotated[list[Node], Field(max_length=2000)]
    elements: Annotated[list[Element], Field(max_length=2000)]

    def memo(
        self,
        make: Callable[Concatenate["Circuit", Asks], Value],
        *args: Asks.args,
        **named: Asks.kwargs,
    ) -> Value:
        """What a function makes of the circuit, and of what may be a key, once; a circuit never
        changes in place, and a copy with other elements or nodes makes it anew.
        """
        own = self.__dict__  # a private attribute of pydantic's is ten times slower to read, and this is read thousands of times an edit
        memory: Memory = own.get(MEMORY, {})
        key = (make, *args, *named.items())
        known = memory.get(key)
        if known is None or known[0] is not own["elements"] or known[1] is not own["nodes"]:
            known = own["elements"], own["nodes"], make(self, *args, **named)
            own[MEMORY] = {**own.get(MEMORY, {}), key: known}
        value: Value = known[2]
        return value

    def remember(
        self,
        value: Value,
        make: Callable[Concatenate["Circuit", Asks], Value],
        *args: Asks.args,
        **named: Asks.kwargs,
    ) -> None:
        """Keep what a function would make of the circuit, known from one like it."""
        own = self.__dict__
        key = (make, *args, *named.items())
        own[MEMORY] = {**own.get(MEMORY, {}), key: (own["elements"], own["nodes"], value)}

    def __eq__(self, other: object) -> bool:
        """Whether the documents are the same."""
        return isinstance(other, Circuit) and (self.template, self.nodes, self.elements) == (
            other.template,
            other.nodes,
            other.elements,
        )

    __hash__ = None  # type: ignore[assignment]

    @model_validator(mode="after")
    def _hangs_together(self) -> "Circuit":
        met: set[str] = set()
        for node in self.nodes:
            if node.id in met:
                raise ValueError(f"the node {node.id} stands twice")
            met.add(node.id)
        names: set[str] = set()
        for element in self.elements:
            if element.id in names:
                raise ValueError(f"the part {element.id} stands twice")
            names.add(element.id)
            for port, node_id in element.ports.items():
                if node_id not in met:
                    raise ValueError(
                        f"the part {element.id} has its {port} at the node {node_id}, which is not in nodes"
                    )
        tanks: dict[str, str] = {}
        for element in self.elements:
            if element.kind == "tank":
                node_id = element.ports["outlet"]
                if node_id in tanks:
                    raise ValueError(
                        f"the tanks {tanks[node_id]} and {element.id} stand on one node; join them with a line"
                    )
                tanks[node_id] = element.id
        return self

    def element(self, element_id: str) -> Element | None:
        """The element of an id, or None."""
        return next((e for e in self.elements if e.id == element_id), None)

    def of_kind(self, *kinds: str) -> list[Element]:
        """The elements of some kinds, in document order."""
        return [e for e in self.elements if e.kind in kinds]
