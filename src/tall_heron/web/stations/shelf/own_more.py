"""What rules and sheets ask of a part beyond what solves it: ports, body, ratings, materials. Asked
of every kind that they are asked of, folded; what is empty is taken as usual, and said so.
"""

from dataclasses import dataclass
from functools import cache
from typing import Any

from tall_heron.core.base.catalogue import by_name, table
from tall_heron.core.base.constants import KPA
from tall_heron.core.document.faces import Face
from tall_heron.core.document.kinds import KINDS
from tall_heron.web.forms.field import FLAG, Field
from tall_heron.web.stations.shelf.own_field import OwnKind

MM, MS = 1000.0, 1000.0
PORT_WORDS = {
    "start": "Inlet port",
    "end": "Outlet port",
    "gauge": "Gauge port",
    "outlet": "Outlet",
    "return": "Return opening",
    "vent": "Vent opening",
    "reference": "Reference port",
}
BESIDE = {
    "regulator": ("gauge", "reference"),
    "filter": ("gauge",),
    "rail": ("gauge",),
    "tank": ("return", "vent"),
}  # ports beside those that carry the flow through
PORTLESS = ("hose", "line", "injectors", "strainer")


@dataclass(frozen=True)
class _Fact:
    """A field, the property it fills and what its SI value is multiplied by there; 0 for what is no
    number.
    """

    field: Field
    times: float = 0.0


def _flag(name: str, label: str, note: str = "") -> _Fact:
    return _Fact(Field(name, label, choices=FLAG, sort="flag", note=note))


RATED = _Fact(
    Field("rated_kpa", "Rated for", "pressure", optional=True, note="the most its maker allows"),
    1 / KPA,
)
FACTS: dict[str, tuple[_Fact, ...]] = {
    "pump": (
        RATED,
        _Fact(
            Field(
                "flow_tolerance",
                "Gives up to so much less",
                "fraction",
                optional=True,
                note="new, of its sheet, such as 5 %",
            )
        ),
        _flag("speed_control", "May be slowed by a controller"),
        _flag("brushless", "Brushless, with a controller apart"),
        _flag("passes_stopped", "Lets fuel through when stopped"),
        _flag("dead_heads", "Made to run against a shut line"),
        _Fact(
            Field(
                "noise",
                "Noise",
                choices=(
                    ("", "not stated"),
                    ("quiet", "quiet"),
                    ("fair", "fair"),
                    ("loud", "loud"),
                ),
            )
        ),
        _Fact(
            Field(
                "terminals",
                "Its wires go on",
                choices=(
                    ("", "not stated: 6.3 mm blades assumed"),
                    ("blade", "6.3 mm blades"),
                    ("wide blade", "9.5 mm blades"),
                    ("lug", "studs or screws"),
                ),
            )
        ),
    ),
    "filter": (RATED,),
    "regulator": (RATED,),
    "strainer": (_flag("immersion", "Made to lie in fuel"),),
    "hose": (
        _Fact(Field("bend_radius_mm", "Bends down to a radius of", "length", optional=True), MM),
        _flag("immersion", "Made to lie in fuel", "R10"),
        _flag("conductive", "Its liner conducts", "100R14 type B"),
    ),
    "injectors": (
        _Fact(
            Field(
                "dead_time_12v_ms",
                "Dead time at 12 V",
                "duration",
                on_sheet=("ms", "ms"),
                optional=True,
            ),
            MS,
        ),
        _Fact(
            Field(
                "dead_time_14v_ms",
                "Dead time at 14 V",
                "duration",
                on_sheet=("ms", "ms"),
                optional=True,
            ),
            MS,
        ),
        _Fact(Field("flow_tolerance", "One differs from another by", "fraction", optional=True)),
    ),
    "tank": (
        _flag("level_gauge", "Its level can be seen"),
        _flag("drained", "Drains at its lowest place"),
        _flag("drop_tube", "Its return leads down under the fuel"),
    ),
    "valve": (_flag("relieves", "Lets off what warms behind it", "when shut"),),
}
SIDES = (("long_mm", "Long over all"), ("wide_mm", "Wide over all"), ("high_mm", "High over all"))
OWN_BOX = (
    "tank",
    "hose",
    "line",
    "injectors",
    "strainer",
)  # kinds that ask their sides themselves, or have none


@cache
def more_of(kind: OwnKind) -> tuple[Field, ...]:
    """The folded fields of a kind: its ports and body with what is usual, then its facts."""
    return (*_ports(kind), *(f.field for f in _facts(kind)))


def _facts(kind: OwnKind) -> tuple[_Fact, ...]:
    element = kind.element or kind.kind
    row = next((r for r in table("bodies") if r["kind"] == element and not r["mount"]), None)
    sides = () if element in OWN_BOX else SIDES
    asked = {f.name for f in kind.fields}
    body = []
    for name, label in sides:
        if name.removesuffix("_mm") not in asked:
            note = f"empty: {row[name]:g} mm, assumed" if row is not None else ""
            body.append(_Fact(Field(name, label, "length", optional=True, note=note), MM))
    return (*FACTS.get(kind.kind, ()), *body)


def _ports(kind: OwnKind) -> tuple[Field, ...]:
    element = kind.element or kind.kind
    if element in PORTLESS:
        return ()
    row = by_name("ports_usual", "kind").get(element)
    usual = Face(str(row["sort"]) if row is not None else "flare").words
    out = []
    for port in (*KINDS[element].ports, *BESIDE.get(element, ())):
        note = (
            f"such as -10 O-ring; empty: {usual} in its line’s size, assumed"
            if port in KINDS[element].ports
            else "where it has one"
        )
        out.append(
            Field(f"port_{port}", PORT_WORDS.get(port, port), optional=True, note=note, sort="face")
        )
    return tuple(out)


def said_more(kind: OwnKind, values: dict[str, Any]) -> dict[str, Any]:
    """What was said in the folded fields, as properties."""
    out: dict[str, Any] = {}
    for fact in _facts(kind):
        value = values[fact.field.name]
        if fact.field.sort == "flag" or value not in (None, ""):
            out[fact.field.name] = round(value * fact.times, 6) if fact.times else value
    faces = {f.name.removeprefix("port_"): values[f.name] for f in _ports(kind) if values[f.name]}
    return out | ({"faces": faces} if faces else {})
