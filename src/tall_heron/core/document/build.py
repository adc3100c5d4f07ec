"""The document of a build: what was asked, what was chosen. The JSON Schema comes from here."""

import json
from typing import Annotated, Any, Literal, TypeVar

from pydantic import BaseModel, Field, ValidationError, field_validator, model_validator

from tall_heron.core.base.constants import CELSIUS, KPA, KW
from tall_heron.core.base.errors import BuildError, BuildErrors
from tall_heron.core.document.circuit import Circuit, Element
from tall_heron.core.document.figures import LAW_NAMES
from tall_heron.core.document.kinds import FILTERS, KINDS
from tall_heron.core.document.own_case import OwnCase
from tall_heron.core.document.own_fuel import OWN, OwnFuel
from tall_heron.core.document.point import Point
from tall_heron.core.document.record import Record
from tall_heron.core.document.shop import Shop
from tall_heron.core.document.space import Space
from tall_heron.core.document.upgrade import upgraded
from tall_heron.core.document.wiring import Wiring
from tall_heron.core.document.wish import MOST_QUESTIONS, MOST_WISHES, Question, Wish
from tall_heron.core.physics.fuel import Fuel, fuel_named

FORMAT = "tall-heron-build/3"
MAX_BYTES = 4_000_000


Checked = TypeVar("Checked", bound=BaseModel)


class Brief(Record):
    """What the engine is and what is asked of it. Pressures are gauge."""

    title: Annotated[str, Field(max_length=120)] = ""
    cylinders: Annotated[int, Field(ge=1, le=48)] = 6
    displacement_l: Annotated[float, Field(ge=0.02, le=60)] = 2.0
    power_kw: Annotated[float, Field(ge=1, le=5000)]
    later_power_kw: Annotated[float, Field(ge=1, le=5000)] | None = None
    fuel: Annotated[str, Field(max_length=20)] = "E10"
    own_fuel: OwnFuel | None = None
    ethanol_range: Literal["as named", "as sold", "flex"] = "as named"
    season: Literal["summer", "spring or autumn", "winter"] = "summer"
    base_kpa: Annotated[float, Field(ge=1, le=2000)]
    boost_kpa: Annotated[float, Field(ge=0, le=700)] = 0.0
    idle_manifold_kpa: Annotated[float, Field(ge=-101, le=0)] = -50.0
    feeding: Literal["injection", "carburettor"] = "injection"
    use: Literal["street", "drag", "circuit", "off-road", "flight"] = "street"
    voltage_v: Annotated[float, Field(ge=4, le=60)] = 13.5
    altitude_m: Annotated[float, Field(ge=-400, le=10000)] = 0.0
    fuel_temperature_c: Annotated[float, Field(ge=-40, le=90)] = 40.0
    bsfc_petrol_kg_kwh: Annotated[float, Field(ge=0.1, le=1.5)] | None = None
    peak_rpm: Annotated[float, Field(ge=300, le=25000)] | None = None
    volumetric_efficiency: Annotated[float, Field(ge=0.3, le=1.4)] = 0.95
    lambda_peak: Annotated[float, Field(ge=0.5, le=1.5)] | None = None
    dead_time: Literal["corrected", "not corrected"] = "corrected"
    charge_temperature_c: Annotated[float, Field(ge=-40, le=200)] = 50.0
    margin: Annotated[float, Field(ge=0, le=3)] | None = None

    @property
    def carbureted(self) -> bool:
        """Whether a carburetor takes the fuel; its bowl feels boost, never vacuum."""
        return self.feeding == "carburettor"

    @property
    def power(self) -> float:
        """Power asked now [W]."""
        return self.power_kw * KW

    @property
    def later_power(self) -> float | None:
        """Power asked later [W], or None."""
        return self.later_power_kw * KW if self.later_power_kw is not None else None

    @property
    def most_power(self) -> float:
        """The most that is asked, now or later [W]."""
        return max(self.power, self.later_power or 0.0)

    @property
    def base(self) -> float:
        """Base pressure over the manifold [Pa]."""
        return self.base_kpa * KPA

    @property
    def boost(self) -> float:
        """Boost at peak [Pa gauge]."""
        return self.boost_kpa * KPA

    @property
    def fuel_temperature(self) -> float:
        """The fuel's temperature [K]."""
        return self.fuel_temperature_c + CELSIUS

    @property
    def boosted(self) -> bool:
        """Whether the engine is boosted: any boost at all."""
        return self.boost_kpa > 0

    @field_validator("fuel")
    @classmethod
    def _known(cls, value: str) -> str:
        return OWN if value.strip().lower() == OWN else fuel_named(value).name

    @model_validator(mode="after")
    def _own_is_described(self) -> "Brief":
        if self.fuel == OWN and self.own_fuel is None:
            raise ValueError(
                "describe your own fuel first: its density, its air to fuel ratio, where it boils"
            )
        return self

    def fuel_of(self, name: str) -> Fuel:
        """A fuel by its name, the builder's own among them. Raises ValueError for an unknown one."""
        return (
            self.own_fuel.fuel() if name == OWN and self.own_fuel is not None else fuel_named(name)
        )


class Accepted(Record):
    """A finding that the builder lives with, and why: it stays in the record and on the printed
    sheets.
    """

    rule: Annotated[str, Field(max_length=10)]
    element_id: Annotated[str, Field(max_length=40)]
    reason: Annotated[str, Field(min_length=3, max_length=400)]


class Build(Record):
    """A build: brief and circuit, operating points where the file brings its own, and the text of
    figures as they were typed.
    """

    format: Literal["tall-heron-build/3"] = "tall-heron-build/3"
    name: Annotated[str, Field(min_length=1, max_length=120)] = "circuit"
    brief: Brief | None = None
    circuit: Circuit
    points: Annotated[list[Point], Field(max_length=1000)] = Field(default_factory=list)
    accepted: Annotated[list[Accepted], Field(max_length=500)] = Field(default_factory=list)
    prices: dict[
        Annotated[str, Field(max_length=20)],
        Annotated[float, Field(ge=0, le=1000, description="per liter")],
    ] = Field(default_factory=dict)
    typed: dict[str, Annotated[str, Field(max_length=200)]] = Field(default_factory=dict)
    cases: Annotated[list[OwnCase], Field(max_length=40)] = Field(default_factory=list)
    hidden_cases: Annotated[list[Annotated[str, Field(max_length=80)]], Field(max_length=100)] = (
        Field(default_factory=list)
    )
    space: Space = Field(default_factory=Space)
    shop: Shop = Field(default_factory=Shop)
    wiring: Wiring | None = None
    line: Annotated[
        str,
        Field(max_length=300, description="the builder's own sentence that it was started from"),
    ] = ""
    wishes: Annotated[list[Wish], Field(max_length=MOST_WISHES)] = Field(default_factory=list)
    questions: Annotated[list[Question], Field(max_length=MOST_QUESTIONS)] = Field(
        default_factory=list
    )
    assumed: Annotated[list[Annotated[str, Field(max_length=40)]], Field(max_length=60)] = Field(
        default_factory=list, description="fields of the brief that nobody has said yet"
    )

    @model_validator(mode="after")
    def _points_fit(self) -> "Build":
        elements = {e.id: e for e in self.circuit.elements}
        wrong: list[BuildError] = []
        for i, point in enumerate(self.points):
            if point.demand_lph == "brief" and self.brief is None:
                wrong.append(
                    BuildError(
                        f"/points/{i}/demand_lph",
                        "asks for the brief's demand, and there is no brief; give a flow in L/h",
                    )
                )
            named = (
                [("off", n) for n in point.off]
                + [("position", n) for n in point.position]
                + [("level_mm", n) for n in point.level_mm]
            )
            named += [("clogging", n) for n in point.clogging]
            for group in ("voltage_v", "demand_lph"):
                value = getattr(point, group)
                named += [(group, n) for n in value] if isinstance(value, dict) else []
            for group, name in named:
                if name not in elements:
                    wrong.append(
                        BuildError(f"/points/{i}/{group}/{name}", "names no part of the circuit")
                    )
            for name, position in point.position.items():
                if name in elements and (why := _no_position(elements[name], position)):
                    wrong.append(BuildError(f"/points/{i}/position/{name}", why))
            for name in point.clogging:
                if name in elements and elements[name].kind not in FILTERS:
                    word = KINDS[elements[name].kind].word
                    wrong.append(
                        BuildError(
                            f"/points/{i}/clogging/{name}",
                            f"a {word} does not clog; name a filter or a pre-filter, or give the {word} a larger K",
                        )
                    )
        if wrong:
            raise Misplaced(wrong)
        return self


def _no_position(element: Element, position: str) -> str:
    """Why a part cannot be in a position; empty where it can."""
    kind = KINDS[element.kind]
    if position in kind.links:
        return ""
    known = [x for x in kind.links if x]
    return (
        f"is “{position}”; a {kind.word} can be {', '.join(known)}"
        if known
        else f"a {kind.word} has no positions; leave it out"
    )


class Misplaced(ValueError):
    """Faults that a model found at places of its own within the document."""

    def __init__(self, errors: list[BuildError]) -> None:
        super().__init__("; ".join(str(e) for e in errors))
        self.errors = errors


def _no_twins(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    out = dict(pairs)
    if len(out) != len(pairs):
        names = [k for k, _ in pairs]
        twin = next(k for k in names if names.count(k) > 1)
        raise BuildError("", f"the field “{twin}” stands twice in one object")
    return out


def _no_constant(name: str) -> float:
    raise BuildError("", f"{name} is not a number a file may hold")


_PLAIN = {
    "missing": "is missing",
    "extra_forbidden": "is not a field known here",
    "float_parsing": "must be a number",
    "float_type": "must be a number",
    "int_parsing": "must be a whole number",
    "int_type": "must be a whole number",
    "finite_number": "must be a finite number",
    "string_type": "must be text",
    "bool_type": "must be true or false",
    "bool_parsing": "must be true or false",
    "string_pattern_mismatch": "may hold letters, figures, spaces, - and _ only, and starts with a letter or figure",
}


def checked(kind: type[Checked], data: Any) -> Checked:
    """A record of the document from plain data. Raises BuildErrors, every error in plain words."""
    try:
        return kind.model_validate(data)
    except ValidationError as error:
        raise BuildErrors([readable(e) for e in error.errors()]) from None


def readable(error: Any) -> BuildError:
    """One pydantic error as a BuildError in plain words."""
    at = [
        p
        for p in error["loc"]
        if not (isinstance(p, str) and ("[" in p or ("-" in p and p.startswith("function"))))
    ]
    # pydantic puts the chosen law's tag into the place; a JSON pointer has none.
    if len(at) > 4 and at[0] == "circuit" and "figures" in at:
        i = at.index("figures")
        if i + 1 < len(at) and at[i + 1] in LAW_NAMES:
            del at[i + 1]
    text = _PLAIN.get(error["type"]) or error["msg"].removeprefix("Value error, ").replace(
        "Input should be", "must be"
    ).replace("String should have", "must have")
    given = error.get("input")
    if error["type"].startswith("union_tag"):  # what kind of record it is does not stand there
        name = error["ctx"]["discriminator"].strip("'")
        at.append(name)
        given = given.get(name) if isinstance(given, dict) else given
        known = error["ctx"].get("expected_tags")
        text = f"must be one of {known.replace(chr(39), '')}" if known else "is missing"
    if isinstance(given, (int, float, str)) and error["type"] not in (
        "value_error",
        "missing",
        "extra_forbidden",
    ):
        text += f"; it is {json.dumps(given, ensure_ascii=False)[:60]}"
    return BuildError("/" + "/".join(str(p) for p in at) if at else "", text)


def validate(data: Any) -> Build:
    """A document from plain data. Raises BuildErrors with every fault at once."""
    if not isinstance(data, dict):
        raise BuildErrors([BuildError("", "a build file holds one JSON object")])
    if "circuit" not in data and "nodes" in data and "elements" in data:
        raise BuildErrors(
            [BuildError("/circuit", "is missing: put nodes and elements inside “circuit”")]
        )
    try:
        return Build.model_validate(upgraded(data))
    except ValidationError as error:
        raise BuildErrors([x for e in error.errors() for x in _readable(e)]) from None


def _readable(error: Any) -> list[BuildError]:
    own = error.get("ctx", {}).get("error")
    return own.errors if isinstance(own, Misplaced) else [readable(error)]


def load(text: str | bytes) -> Build:
    """A document from JSON text. Raises BuildErrors."""
    if len(text) > MAX_BYTES:
        raise BuildErrors(
            [
                BuildError(
                    "",
                    f"the file is larger than {MAX_BYTES // 1_000_000} MB; a build is a few hundred kB at most",
                )
            ]
        )
    try:
        plain = text.decode("utf-8-sig") if isinstance(text, bytes) else text
        data = json.loads(plain, object_pairs_hook=_no_twins, parse_constant=_no_constant)
    except BuildError as error:
        raise BuildErrors([error]) from None
    except RecursionError:
        raise BuildErrors([BuildError("", "the file is nested too deeply to be a build")]) from None
    except UnicodeDecodeError:
        raise BuildErrors([BuildError("", "the file is not text in UTF-8")]) from None
    except json.JSONDecodeError as error:
        raise BuildErrors(
            [
                BuildError(
                    "",
                    f"the file is not JSON: {error.msg} at line {error.lineno}, column {error.colno}",
                )
            ]
        ) from None
    except ValueError:
        raise BuildErrors(
            [BuildError("", "the file holds a number with too many figures")]
        ) from None
    return validate(data)


def dump(build: Build) -> str:
    """The JSON text of a document."""
    return build.model_dump_json(exclude_none=True, indent=1)
