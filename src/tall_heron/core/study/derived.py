"""What follows from a study is worked out once, and declared: a derivation says which parts of the
build it reads, is its own key, and lives on in a study of a changed build where none of those parts
differs.
"""

from collections.abc import Callable, Hashable
from typing import Any, Concatenate, Generic, Literal, ParamSpec, Protocol, TypeVar, get_args

from tall_heron.core.document.build import Build
from tall_heron.core.document.circuit import Circuit, Element, End

Part = Literal[
    "brief",
    "hydraulics",
    "titles",
    "clocks",
    "prices",
    "wiring",
    "cases",
    "accepted",
    "space",
    "shop",
    "texts",
]
PARTS: frozenset[Part] = frozenset(get_args(Part))
SOLVED_BY: frozenset[Part] = frozenset(
    ("brief", "hydraulics", "wiring")
)  # what a build's solutions hang on

Value = TypeVar("Value")
Asks = ParamSpec("Asks")
Key = tuple["Derivation[Any, Any, Any]", tuple[Hashable, ...]]


class Keeps(Protocol):
    """What keeps what was derived from it: a study."""

    answers: dict[Key, Any]


Owner = TypeVar("Owner", bound=Keeps)


class Derivation(Generic[Owner, Asks, Value]):
    """A function of a study and of what can be a key, worked out once for a study; `reads` are the
    parts of the build that it looks at.
    """

    def __init__(
        self, make: Callable[Concatenate[Owner, Asks], Value], reads: frozenset[Part]
    ) -> None:
        self.make, self.reads = make, reads
        self.__doc__, self.__name__ = make.__doc__, make.__name__

    def __call__(self, study: Owner, *args: Asks.args, **named: Asks.kwargs) -> Value:
        """What it comes to for a study."""
        return self.under(
            study, (*args, *sorted(named.items())), lambda: self.make(study, *args, **named)
        )

    def known(self, study: Owner, *key: Hashable) -> bool:
        """Whether it has been worked out for a study and a key; without one, for the study alone."""
        return (self, key) in study.answers

    def under(self, study: Owner, key: tuple[Hashable, ...], make: Callable[[], Value]) -> Value:
        """The same where what it is made of can be no key itself: made by `make`, known by `key`."""
        known = study.answers
        if (self, key) not in known:
            known[self, key] = make()
        value: Value = known[self, key]
        return value


def derived(
    *reads: Part,
) -> Callable[[Callable[Concatenate[Owner, Asks], Value]], Derivation[Owner, Asks, Value]]:
    """Declare a function of a study as one that is worked out once and reads these parts of its
    build; without any it reads them all.
    """
    return lambda make: Derivation(make, frozenset(reads) or PARTS)


def surviving(answers: dict[Key, Any], differ: frozenset[Part]) -> dict[Key, Any]:
    """What still holds of what was derived from a build, in one that differs in some parts."""
    return {key: value for key, value in answers.items() if not key[0].reads & differ}


def differing(one: Build, other: Build) -> frozenset[Part]:
    """The parts in which two builds differ."""
    same: dict[Part, bool] = {
        "brief": _untitled(one) == _untitled(other),
        "wiring": one.wiring == other.wiring,
        "cases": one.cases == other.cases and one.hidden_cases == other.hidden_cases,
        "accepted": one.accepted == other.accepted,
        "space": one.space == other.space,
        "shop": one.shop == other.shop and one.prices == other.prices,
        "texts": all(
            getattr(one, x) == getattr(other, x)
            for x in ("name", "points", "typed", "line", "wishes", "questions", "assumed")
        ),
        **_of_circuits(one.circuit, other.circuit),
    }
    if one.brief is not None and other.brief is not None and one.brief.title != other.brief.title:
        same["titles"] = False
    return frozenset(part for part, equal in same.items() if not equal)


def _untitled(build: Build) -> object:
    return build.brief.model_copy(update={"title": ""}) if build.brief is not None else None


def _of_circuits(one: Circuit, other: Circuit) -> dict[Part, bool]:
    if one is other:
        return {"hydraulics": True, "titles": True, "clocks": True, "prices": True}
    pairs = list(zip(one.elements, other.elements, strict=False))
    alike = (
        one.template == other.template
        and one.nodes == other.nodes
        and len(one.elements) == len(other.elements)
    )
    changed = [(a, b) for a, b in pairs if a is not b and (a != b or a.adapters != b.adapters)]
    return {
        "hydraulics": alike
        and all(_bare(a) == _bare(b) and a.adapters == b.adapters for a, b in changed),
        "titles": alike and all((a.title, a.runs) == (b.title, b.runs) for a, b in changed),
        "clocks": alike
        and all((a.clock_deg, a.clock_source) == (b.clock_deg, b.clock_source) for a, b in changed),
        "prices": alike and all(_priced(a) == _priced(b) for a, b in changed),
    }


UNPRICED = {"price": None, "mass_kg": None}


def _bare(e: Element) -> Element:
    """An element without what no equation and no limit reads."""
    ends = {
        side: end.model_copy(update=UNPRICED) if end is not None else None
        for side, end in (("end_a", e.end_a), ("end_b", e.end_b))
    }
    about = e.properties.model_copy(update=UNPRICED)
    return e.model_copy(
        update={
            "title": "",
            "runs": "",
            "clock_deg": None,
            "clock_source": "assumed",
            "mounting": None,
            "properties": about,
            **ends,
        }
    )


def _priced(e: Element) -> tuple[object, ...]:
    def of(end: End | None) -> tuple[object, ...]:
        return (end.price, end.mass_kg) if end is not None else ()

    return e.properties.price, e.properties.mass_kg, e.mounting, of(e.end_a), of(e.end_b)
