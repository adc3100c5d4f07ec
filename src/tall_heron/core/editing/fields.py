"""Changes to a build, each a new document with the name of the act. Nothing is changed in place, so
a refused change leaves no trace.
"""

from collections.abc import Sequence
from typing import Any

from pydantic import ValidationError

from tall_heron.core.base.catalogue import by_name, house_figure
from tall_heron.core.base.errors import BuildError, BuildErrors
from tall_heron.core.document.build import Accepted, Build, checked
from tall_heron.core.document.circuit import Circuit, Element, End, Length, Stage
from tall_heron.core.document.figures import Air, Injectors, Pipe, PumpMap, Regulator, TankLevel
from tall_heron.core.document.kinds import DRY, LINES, PIPES
from tall_heron.core.document.mounts import stands_outside
from tall_heron.core.document.own_fuel import OWN, OwnFuel
from tall_heron.core.document.properties import Properties
from tall_heron.core.document.sources import clocked
from tall_heron.core.editing.connectors import family_of, followed, matched
from tall_heron.core.shelf import shelf
from tall_heron.core.shelf.own_part import STEM
from tall_heron.core.shelf.shelf import ShelfPart

MOST_HELD = (0.3, 2000.0)  # L


def _with_circuit(build: Build, elements: list[Element]) -> Build:
    circuit = Circuit(template=build.circuit.template, nodes=build.circuit.nodes, elements=elements)
    return build.model_copy(update={"circuit": circuit})


def set_brief(build: Build, field: str, value: Any, typed: str | None = None) -> Build:
    """Set one field of the brief. The base pressure is set where it acts: at the regulators that
    hold the rail, and in the injectors' pulse.

    Raises BuildErrors with the field where the value cannot be.
    """
    if build.brief is None:
        raise BuildErrors([BuildError("/brief", "the build has no brief")])
    brief = checked(type(build.brief), build.brief.model_dump() | {field: value})
    if (
        field == "season"
        and "/brief/fuel_temperature_c" not in build.typed
        and build.brief.fuel_temperature_c == usual_celsius(build.brief.season)
    ):
        brief = brief.model_copy(
            update={"fuel_temperature_c": usual_celsius(brief.season)}
        )  # nobody said how warm: winter's fuel is not met on a summer's day
    elements = list(build.circuit.elements)
    if field == "base_kpa":
        elements = [_at_base(e, brief.base_kpa) for e in elements]
    if field == "cylinders":
        elements = shared_out(elements, brief.cylinders)
    pointer = f"/brief/{field}"
    text = {k: v for k, v in build.typed.items() if k != pointer} | (
        {pointer: typed} if typed else {}
    )
    return _with_circuit(build, elements).model_copy(
        update={"brief": brief, "typed": text, "assumed": [x for x in build.assumed if x != field]}
    )


def usual_celsius(season: str) -> float:
    """How warm a tank gets in a season [degC], where nobody says."""
    return house_figure(
        {"summer": "tank_summer_c", "winter": "tank_winter_c"}.get(season, "tank_between_c")
    )


def set_own_fuel(build: Build, fuel: OwnFuel) -> Build:
    """Describe a fuel of one's own, and run on it. Raises BuildErrors."""
    if build.brief is None:
        raise BuildErrors([BuildError("/brief", "the build has no brief")])
    brief = build.brief.model_copy(update={"own_fuel": fuel, "fuel": OWN})
    return build.model_copy(update={"brief": brief})


def shared_out(elements: list[Element], cylinders: int) -> list[Element]:
    """One injector a cylinder, over all rails as evenly as can be."""
    sets = [e.id for e in elements if e.kind == "injectors"]
    counts = {
        name: max(1, cylinders // len(sets) + (i < cylinders % len(sets)))
        for i, name in enumerate(sets)
    }
    return [
        e.model_copy(update={"figures": e.figures.model_copy(update={"count": counts[e.id]})})
        if e.id in counts
        else e
        for e in elements
    ]


def _at_base(element: Element, base_kpa: float) -> Element:
    part, properties = element.figures, element.properties
    if isinstance(part, Injectors) and part.own_lph is None:
        return element.model_copy(
            update={"figures": part.model_copy(update={"commanded_at_kpa": base_kpa})}
        )
    if isinstance(part, Regulator):
        # The screw reaches only so far; rail pressure then misses what is asked, and the findings
        # say so.
        in_range = properties.within_setting(base_kpa)
        return element.model_copy(update={"figures": part.model_copy(update={"set_kpa": in_range})})
    return element


def part_of(build: Build, element_id: str) -> Element:
    """A part by its tag. Raises BuildErrors where there is none."""
    element = build.circuit.element(element_id)
    if element is None:
        raise BuildErrors([BuildError("/part", f"there is no part {element_id} in this circuit")])
    return element


def _replace(build: Build, new: Element) -> Build:
    return _with_circuit(build, [new if e.id == new.id else e for e in build.circuit.elements])


def fit(build: Build, element_id: str, name: str, own: Sequence[ShelfPart] = ()) -> Build:
    """Fit a part of the shelf in an element's place; a hose keeps its length and the angles of its
    ends. Raises BuildErrors.
    """
    element = part_of(build, element_id)
    chosen = next((p for p in own if p.name == name), shelf.parts().get(name))
    if chosen is None and name.startswith(STEM):
        raise BuildErrors(
            [
                BuildError(
                    "/part",
                    "that part of your own is no longer on the shelf: somebody took it off meanwhile; choose another",
                )
            ]
        )
    if chosen is None or not shelf.suits_place(chosen, element):
        raise BuildErrors(
            [
                BuildError(
                    "/part",
                    f"“{name}” cannot take the place of {element_id}; choose one from the list",
                )
            ]
        )
    fitted = _replace(
        build, in_place(element, chosen, build.brief.base_kpa if build.brief is not None else None)
    )
    return with_unions(fitted, element_id) if element.kind in PIPES else fitted


def with_part(build: Build, element_id: str, part: ShelfPart) -> Build:
    """A part of the shelf as it is now in the place of one that was fitted of it before; a
    regulator's screw stays where it is. Raises BuildErrors.
    """
    element = part_of(build, element_id)
    if not shelf.suits_place(part, element):
        raise BuildErrors(
            [BuildError("/part", f"{part.title} can no longer stand in the place of {element_id}")]
        )
    new = in_place(element, part, None)
    if isinstance(new.figures, Regulator) and isinstance(element.figures, Regulator):
        new = new.model_copy(
            update={
                "figures": new.figures.model_copy(
                    update={"set_kpa": part.properties.within_setting(element.figures.set_kpa)}
                )
            }
        )
    if isinstance(new.figures, Injectors) and isinstance(element.figures, Injectors):
        new = new.model_copy(
            update={
                "figures": new.figures.model_copy(
                    update={"commanded_at_kpa": element.figures.commanded_at_kpa}
                )
            }
        )
    return _replace(build, new)


def with_unions(build: Build, hose: str) -> Build:
    """A build whose bulkhead unions and tank inlets that join one hose are of its size."""
    circuit, line = build.circuit, build.circuit.element(hose)
    joined = [(i, under) for i, (name, under) in followed(circuit).items() if name == hose]
    for i, under in joined:
        e = circuit.element(i)
        if e is not None and line is not None and family_of(e).startswith(("bulkhead", "inlet")):
            build = _replace(build, matched(circuit, e, line, under))
    return build


def in_place(element: Element, chosen: ShelfPart, base_kpa: float | None) -> Element:
    """A part of the shelf in an element's place, set to a base pressure [kPa]; a hose keeps its
    length and the angles of its ends.
    """
    part = chosen.figures
    more: dict[str, Any] = {}
    if isinstance(part, Pipe):
        for end in ("end_a", "end_b"):
            old = getattr(element, end)
            if old is not None:
                more[end] = (
                    own_end(chosen.properties, old.angle_deg)
                    or shelf.nearest_end(
                        chosen.properties.family, chosen.properties.dash, old.angle_deg
                    )
                    or old
                )
        if element.kind == "overflow":
            pass
        elif element.kind in DRY:
            part = Air(bore_mm=part.bore_mm)
        else:
            more["kind"] = chosen.kind
    if (
        isinstance(part, Injectors)
        and isinstance(element.figures, Injectors)
        and element.kind == "injectors"
    ):
        part = part.model_copy(update={"count": element.figures.count})
    if isinstance(part, TankLevel):
        part = element.figures  # how full it is stays
    new = element.model_copy(
        update={
            "figures": part,
            "shelf": chosen.name,
            "title": chosen.title,
            "properties": chosen.properties,
            **more,
        }
    )
    return new if base_kpa is None else _at_base(new, base_kpa)


def own_end(about: Properties, angle_deg: float) -> End | None:
    """An end of a hose of the builder's own, bent by an angle [deg]; None where nobody has said
    what ends it takes.
    """
    ends = about.ends
    if ends is None:
        return None
    end = shelf.own_end(
        angle_deg, ends.bent_take_up_mm if angle_deg else ends.take_up_mm, ends.throat_bore_mm
    )
    return end.model_copy(
        update={"family": about.family, "dash": about.dash, "provenance": about.provenance}
    )


def set_air(build: Build, element_id: str, gauge_kpa: float) -> Build:
    """Say what stands over the fuel of a tank [kPa gauge]. Raises BuildErrors for anything else."""
    element = part_of(build, element_id)
    if not isinstance(element.figures, TankLevel):
        raise BuildErrors([BuildError("/part", f"{element_id} is no tank")])
    return _replace(
        build,
        element.model_copy(
            update={"figures": element.figures.model_copy(update={"gauge_kpa": gauge_kpa})}
        ),
    )


def set_screw(build: Build, element_id: str, kpa: float) -> Build:
    """Set a regulator's screw [kPa]. Raises BuildErrors where it has none, or it does not reach so
    far.
    """
    element = part_of(build, element_id)
    if not isinstance(element.figures, Regulator) or element.properties.within_setting(kpa) != kpa:
        raise BuildErrors([BuildError("/part", f"{element_id} cannot be set to {kpa:g} kPa")])
    return _replace(
        build,
        element.model_copy(update={"figures": element.figures.model_copy(update={"set_kpa": kpa})}),
    )


def set_capacity(build: Build, element_id: str, liters: float) -> Build:
    """Say what a tank of one's own holds [L]; its box and what is in it are no longer known. Raises
    BuildErrors.
    """
    element = part_of(build, element_id)
    if element.kind != "tank":
        raise BuildErrors([BuildError("/value", f"{element_id} is no tank")])
    if not MOST_HELD[0] <= liters <= MOST_HELD[1]:
        raise BuildErrors(
            [
                BuildError(
                    "/value",
                    f"a tank here holds {MOST_HELD[0]:g} L to {MOST_HELD[1]:g} L; {liters:g} L is outside that",
                )
            ]
        )
    own = Properties(family=element.properties.family, capacity_l=liters, provenance="measured")
    titled = element.model_copy(
        update={
            "properties": own,
            "shelf": None,
            "title": f"own {own.family or 'tank'}, {liters:g} L",
        }
    )
    return _replace(build, titled)


def set_stage(build: Build, element_id: str, stage: Stage | None) -> Build:
    """Say from when on an electric pump runs, or that it runs always. Raises BuildErrors."""
    element = part_of(build, element_id)
    if not isinstance(element.figures, PumpMap):
        raise BuildErrors(
            [BuildError("/value", f"{element_id} is no electric pump: nothing switches it")]
        )
    return _replace(build, element.model_copy(update={"stage": stage}))


def set_mounting(build: Build, element_id: str, name: str) -> Build:
    """Say what a pump outside the tank is mounted on. Raises BuildErrors."""
    element = part_of(build, element_id)
    names = by_name("soft_mounts")
    if not stands_outside(element) or name not in names:
        raise BuildErrors(
            [BuildError("/value", f"{element_id} is mounted on none of these: {', '.join(names)}")]
        )
    return _replace(
        build, element.model_copy(update={"mounting": None if name == "bolted" else name})
    )


def set_length(build: Build, element_id: str, mm: float, typed: str | None = None) -> Build:
    """Set the face-to-face length of a hose [mm]. Raises BuildErrors."""
    element = part_of(build, element_id)
    if element.length is None:
        raise BuildErrors([BuildError("/length", f"{element_id} has no length to set")])
    try:
        length = Length(mm=mm, source="typed", typed=typed)
    except ValidationError:
        raise BuildErrors(
            [BuildError("/length", "a hose is between 1 mm and 1,000 m long")]
        ) from None
    return _replace(build, element.model_copy(update={"length": length}))


def set_end(build: Build, element_id: str, side: str, angle: float) -> Build:
    """Fit another end to a hose: side `a` or `b`, at an angle the shelf has. Raises BuildErrors."""
    element = part_of(build, element_id)
    if side in ("a", "b") and (own := own_end(element.properties, angle)) is not None:
        return _replace(build, _clock_where_bent(element.model_copy(update={f"end_{side}": own})))
    names = [
        row["name"] for row in shelf.ends_for(element.properties.family, element.properties.dash)
    ]
    name = shelf.end_name(element.properties.family, element.properties.dash, angle)
    if side not in ("a", "b") or name not in names:
        raise BuildErrors([BuildError("/end", f"the shelf has no {angle:g}° end for {element_id}")])
    return _replace(
        build, _clock_where_bent(element.model_copy(update={f"end_{side}": shelf.end(name)}))
    )


def set_own_end(build: Build, element_id: str, side: str, own: End) -> Build:
    """Fit an end of the builder's own to a hose: its angle, take-up, bore and loss as typed; family
    and size are the hose's. Raises BuildErrors.
    """
    element = part_of(build, element_id)
    if side not in ("a", "b") or element.kind not in LINES:
        raise BuildErrors([BuildError("/end", f"{element_id} has no end {side} to fit")])
    fitted = own.model_copy(
        update={"family": element.properties.family, "dash": element.properties.dash}
    )
    return _replace(build, _clock_where_bent(element.model_copy(update={f"end_{side}": fitted})))


def own_ends(build: Build, element: Element) -> list[End]:
    """The ends of the builder's own that hoses of the same family and size in a build have."""
    alike = [
        e
        for e in build.circuit.elements
        if (e.properties.family, e.properties.dash)
        == (element.properties.family, element.properties.dash)
    ]
    out: list[End] = []
    for end in (x for e in alike for x in (e.end_a, e.end_b)):
        if end is not None and end.shelf is None and end not in out:
            out.append(end)
    return out


def _clock_where_bent(element: Element) -> Element:
    """A hose with a straight end has no clock: any way round is the same."""
    return (
        element
        if clocked(element)
        else element.model_copy(update={"clock_deg": None, "clock_source": "assumed"})
    )


def set_clock(build: Build, element_id: str, degrees: float | None) -> Build:
    """Say how end B stands to end A of a hose, seen from B, clockwise [deg], or that nobody knows.
    Raises BuildErrors.
    """
    element = part_of(build, element_id)
    if not clocked(element):
        raise BuildErrors(
            [
                BuildError(
                    "/clock",
                    f"{element_id} has no two bent ends, so it has no clocking angle: any way round is the same",
                )
            ]
        )
    if degrees is not None and not 0 <= degrees <= 360:
        raise BuildErrors(
            [
                BuildError(
                    "/clock", f"a clocking angle lies between 0° and 360°; {degrees:g}° is outside"
                )
            ]
        )
    return _replace(
        build,
        element.model_copy(
            update={
                "clock_deg": None if degrees is None else degrees % 360,
                "clock_source": "typed",
            }
        ),
    )


def accept(build: Build, rule: str, part: str, reason: str) -> Build:
    """Accept a finding with a written reason, or take that back with an empty one. Raises
    BuildErrors.
    """
    others = [a for a in build.accepted if (a.rule, a.element_id) != (rule, part)]
    if not reason.strip():
        return build.model_copy(update={"accepted": others})
    new = checked(Accepted, {"rule": rule, "element_id": part, "reason": reason.strip()})
    return build.model_copy(update={"accepted": [*others, new]})


def set_price(build: Build, fuel: str, per_litre: float | None) -> Build:
    """Set what a litre of a fuel costs, or forget it. Raises BuildErrors."""
    if per_litre is not None and not 0 <= per_litre <= 1000:
        raise BuildErrors(
            [BuildError("/prices", f"a liter costs between 0 and 1,000, not {per_litre:g}")]
        )
    others = {name: price for name, price in build.prices.items() if name != fuel}
    return build.model_copy(
        update={"prices": others | ({fuel: per_litre} if per_litre is not None else {})}
    )


def remove(build: Build, element_id: str) -> Build:
    """Take a part out; what it joined stays open. Raises BuildErrors."""
    part_of(build, element_id)
    return _with_circuit(build, [e for e in build.circuit.elements if e.id != element_id])
