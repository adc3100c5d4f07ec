"""The lines of a circuit as a builder sees them, feed, return, suction, lift, each of one size; and
what of the trade's table each starts from.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from tall_heron.core.document.circuit import Circuit, Element
from tall_heron.core.document.kinds import BURNERS, PIPES
from tall_heron.core.document.path import downstream, reach, ways
from tall_heron.core.editing.connectors import SIZES
from tall_heron.core.editing.fields import in_place
from tall_heron.core.physics.fuel import Fuel
from tall_heron.core.shelf.shelf import ShelfPart, parts
from tall_heron.core.shelf.suits import made_for
from tall_heron.core.shelf.totals import price_of
from tall_heron.core.sizing.options import Option, usual_dash
from tall_heron.core.study.lift import lifts
from tall_heron.core.study.study import Study

OTHER_STUFF = (
    "ptfe",
    "immersion",
    "braided",
    "steel",
    "aluminium",
    "convoluted",
)  # for where a line's own family does not bear the fuel, the usual first
LIFT_SHARE = 1.2  # of the demand, what goes through a lift line


@dataclass(frozen=True)
class SizedLine:
    """Hoses and hard lines of one size: what they are, which of SIZES is usual for them and by what
    convention, and from which to which they may be chosen.
    """

    kind: str
    elements: tuple[Element, ...]
    usual: int
    least: int
    most: int
    by: str


def lines_of(study: Study, fuel_demand_lph: float) -> list[SizedLine]:
    """The lines of a circuit that are sized, for a demand through them [L/h]."""
    circuit = study.build.circuit
    by_role: dict[str, list[Element]] = {}
    for e in circuit.of_kind(*PIPES, "overflow"):
        kind = _kind_of(study, circuit, e)
        if kind:
            by_role.setdefault(kind, []).append(e)
    feed = usual_dash(fuel_demand_lph)
    legs, lift = usual_dash(fuel_demand_lph / 2), usual_dash(LIFT_SHARE * fuel_demand_lph)
    top, table = len(SIZES) - 1, "common practice for {:.0f} L/h of fuel demand"
    falls = not study.feed_path.pumps
    rows = {
        "feed": (feed, feed - 1, top if falls else feed + 1, table.format(fuel_demand_lph)),
        "legs": (legs, legs - 1, feed + 1, table.format(fuel_demand_lph / 2)),
        "return": (
            feed - 1,
            0,
            feed + 1,
            "one size under the feed" if feed else "as small as such hose comes",
        ),
        "suction": (
            feed if falls else feed + 1,
            feed,
            top if falls else feed + 2,
            "one size over the feed",
        ),
        "header fill": (feed + 1, feed, top, "one size over the feed: it is filled by height"),
        "lift": (lift, lift - 1, lift + 1, table.format(LIFT_SHARE * fuel_demand_lph)),
        "lift suction": (lift + 1, lift, lift + 2, "one size over the lift line"),
        "jet suction": (feed, feed - 1, feed + 2, "as the feed"),
        "overflow": (lift + 1, lift, top, "one size over the lift line"),
    }
    out = []
    for kind, elements in by_role.items():
        usual, least, most, by = rows[kind]
        out.append(
            SizedLine(
                kind,
                tuple(elements),
                min(max(usual, 0), top),
                min(max(least, 0), top),
                min(max(most, 0), top),
                by,
            )
        )
    return out


def _kind_of(study: Study, circuit: Circuit, e: Element) -> str:
    """What a hose or line is; empty for one that is not sized: the way home of a relief valve."""
    if e.kind == "overflow":
        return "overflow"
    start, end = ways(e)[0]
    if e.role == "return":
        if any(x.kind == "relief" and start in x.ports.values() for x in circuit.elements):
            return ""
        return (
            "legs" if start in study.feed_path.nodes and end in study.feed_path.nodes else "return"
        )
    if e.role == "suction":
        return _suction_kind(study, circuit, e)
    filled = [
        x
        for x in lifts(study)
        if any(e.id in {y.id for y in downstream(circuit, p)} for p in x.pumps)
    ]
    if filled and e.id not in {y.id for p in study.feed_path.pumps for y in downstream(circuit, p)}:
        return "lift"
    return (
        "legs"
        if any(
            x.kind == "split" and start in (x.ports["a"], x.ports["b"]) for x in circuit.elements
        )
        else "feed"
    )


def _suction_kind(study: Study, circuit: Circuit, e: Element) -> str:
    """Whose suction a line is: of the pumps that feed the engine, of those that lift, of a jet, or
    a header's way down from its wing.
    """
    onward = reach(circuit, ways(e)[0][1])
    outlets = {t.ports["outlet"] for t in circuit.of_kind("tank")}
    lifting = {p.id for x in lifts(study) for p in x.pumps}
    if any(
        x.kind == "jet"
        and x.ports["suction"] in {ways(e)[0][1], *(n for y in onward for n in y.ports.values())}
        for x in circuit.of_kind("jet")
    ) and not any(x.kind == "pump" for x in onward):
        return "jet suction"
    if any(x.id in lifting for x in onward):
        return "lift suction"
    if (
        not any(x.kind == "pump" for x in onward)
        and outlets & {ways(e)[0][1], *(n for x in onward for n in x.ports.values())}
        and not any(x.kind in BURNERS for x in onward)
    ):
        return "header fill"
    return "suction"


def line_options(
    elements: Sequence[Element], fuels: Sequence[Fuel], immersed: set[str], own: Sequence[ShelfPart]
) -> list[Option]:
    """One option for each size that all of a line can be had in: each hose or line in its own
    family, or in the usual one that bears the fuel round it and in it.
    """
    out = []
    for i, dash in enumerate(SIZES):
        in_dash = {e.id: _of_dash(e, dash, fuels, e.id in immersed, own) for e in elements}
        fitted = {key: e for key, e in in_dash.items() if e is not None}
        if len(fitted) == len(in_dash):
            out.append(
                Option(
                    dash,
                    f"{dash.replace('-', '−')} {_stuff(fitted)}",
                    float(i),
                    fitted,
                    sum(price_of(e) or 0.0 for e in fitted.values()),
                )
            )
    return out


def _stuff(elements: dict[str, Element]) -> str:
    """What lines are made of, in a word or two."""
    words = dict.fromkeys(e.title.partition(" ")[2] for e in elements.values())
    return " and ".join(words)


def _of_dash(
    element: Element, dash: str, fuels: Sequence[Fuel], immersed: bool, own: Sequence[ShelfPart]
) -> Element | None:
    """A line in a size: in its own family where that bears the fuel, or else in the first that
    does; None where there is none.
    """
    if element.properties.dash == dash and _bears(element, fuels, immersed):
        return element
    families = (
        element.properties.family,
        *(f for f in OTHER_STUFF if f != element.properties.family),
    )
    mine = {p.properties.family + p.properties.dash: p for p in own if p.kind in PIPES}
    for family in families:
        part = mine.get(family + dash) or parts().get(family + dash)
        if part is None or (
            family != element.properties.family
            and part.kind != ("hose" if element.kind == "overflow" else element.kind)
        ):
            continue
        new = in_place(element, part, None)
        if _bears(new, fuels, immersed):
            return new
    return None


def _bears(element: Element, fuels: Sequence[Fuel], immersed: bool) -> bool:
    about = element.properties
    return (
        all(made_for(about, f) for f in fuels)
        and (not immersed or about.immersion is True)
        and about.price is not None
    )
