"""Another layout for a build: what fits is carried over, and what is dropped or new is said."""

from dataclasses import dataclass

from tall_heron.core.base.errors import BuildError, BuildErrors
from tall_heron.core.document.airspace import ONE_AIR
from tall_heron.core.document.build import Build
from tall_heron.core.document.circuit import Circuit, Element
from tall_heron.core.document.figures import Injectors, Regulator
from tall_heron.core.document.kinds import PIPES
from tall_heron.core.document.mounts import IN_TANK, stands_outside
from tall_heron.core.document.sources import with_source
from tall_heron.core.document.tank_shape import FILLED
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.editing.layouts.picks import Rails
from tall_heron.core.editing.topology import in_circuit
from tall_heron.core.shelf.shelf import part_named

OUTSIDE = (
    "teasel-410"  # stands in for any pump that stands outside until the build's own takes its place
)
HANG = ("A4",)  # layouts whose pumps can only hang in their tanks
WITH_THE_ENGINE = (
    "pump",
    "check",
    "merge",
    "filter",
    "regulator",
    "injectors",
    "carburettor",
    "gauge",
    "rail",
)


@dataclass(frozen=True)
class ChangedLayout:
    """The build in its new layout, and the parts that were `dropped` or are `added`, as tag and
    title.
    """

    build: Build
    dropped: tuple[str, ...]
    added: tuple[str, ...]


def change_layout(
    build: Build, key: str, rails: Rails = "single", lift_pumps: int = 1
) -> ChangedLayout:
    """A build in another layout, with so many pumps that lift where it has a pot. A part of the
    same tag and kind keeps its figures, its length and its ends; places of the same
    name keep their height. Raises BuildErrors where there is no such layout or the brief is
    missing.
    """
    layout = LAYOUTS.get(key)
    if layout is None or rails not in layout.rails or build.brief is None:
        raise BuildErrors([BuildError("/layout", f"there is no layout {key} with rails {rails}")])
    old = build.circuit
    same_feeding = any(
        e.kind == ("carburettor" if layout.feeding == "carburettor" else "injectors")
        for e in old.elements
    )
    usual = layout.picks()
    more: dict[str, object] = layout.more(build.brief, build.space.outline or "") | {
        "rails": rails,
        "lift_pumps": lift_pumps,
    }
    pumps = [e for e in old.of_kind("pump") if e.id in ("P1", "P2", "P3")]
    if same_feeding and pumps and key not in HANG:
        outside = (
            any(stands_outside(e) for e in pumps)
            and part_named(usual.pumps[0]).properties.mount in IN_TANK
        )
        more["pumps"] = tuple(
            OUTSIDE if outside else usual.pumps[0]
            for _ in range(max(len(pumps), 2 if key == "C8" else 1))
        )  # drawn with a suction hose, or hung; figures are carried over below
        drawn = old.element("H1")
        if drawn is not None and drawn.role == "suction" and drawn.kind in PIPES:
            more["suction"] = (
                usual.suction
            )  # a hose between strainer and pumps stays, in the tank or out of it
        if not old.of_kind("check"):
            more["check"] = None
    if same_feeding:
        more |= {
            name: kind
            for name, kind in (
                ("damper", "reedbed-damper-10"),
                ("ethanol_sensor", "dragonfly-ethanol-8"),
            )
            if old.of_kind(_KIND[name])
        }
    circuit = layout.build(build.brief, layout.picks(**more))
    circuit = with_source(circuit, "assumed")
    elements = [_carried(e, old.element(e.id), same_feeding) for e in circuit.elements]
    places = {n.id: n for n in old.nodes}
    new = Circuit(
        template=circuit.template,
        nodes=[places.get(n.id, n) for n in circuit.nodes],
        elements=elements,
    )
    names, before = {e.id for e in elements}, {e.id for e in old.elements}
    return ChangedLayout(
        in_circuit(build, new),
        tuple(f"{e.id} {e.title or e.kind}" for e in old.elements if e.id not in names),
        tuple(f"{e.id} {e.title or e.kind}" for e in elements if e.id not in before),
    )


_KIND = {"damper": "damper", "ethanol_sensor": "sensor"}


def _carried(new: Element, old: Element | None, same_feeding: bool) -> Element:
    """A new part with what its namesake brings along."""
    if old is None or (old.kind != new.kind and {old.kind, new.kind} != set(PIPES)):
        return new
    if new.kind in WITH_THE_ENGINE and not same_feeding:
        return new
    if new.kind == "pump" and (
        old.figures.law != new.figures.law
        or (new.properties.mount == "external") != (old.properties.mount == "external")
    ):
        return new  # one on the engine, or beside the tank instead of in it, is another pump
    if (
        isinstance(new.figures, Regulator)
        and isinstance(old.figures, Regulator)
        and new.figures.holds != old.figures.holds
    ):
        return new
    if new.kind == "tank" and any(
        (new.properties.family in sort) != (old.properties.family in sort)
        for sort in (FILLED, ONE_AIR)
    ):
        return new  # a pot is no tank, nor is the half of one
    if new.role != old.role and new.length is not None:
        return new  # a tag that means another line here
    part = old.figures
    if (
        isinstance(part, Regulator)
        and isinstance(new.figures, Regulator)
        and new.figures.reference == "atmosphere"
    ):
        part = part.model_copy(update={"reference": "atmosphere"})
    if (
        isinstance(part, Injectors)
        and isinstance(new.figures, Injectors)
        and new.kind == "injectors"
    ):
        part = part.model_copy(update={"count": new.figures.count})
    carried = {
        f: getattr(old, f)
        for f in (
            "kind",
            "title",
            "shelf",
            "properties",
            "length",
            "end_a",
            "end_b",
            "clock_deg",
            "clock_source",
            "reversed",
        )
    }
    runs = new.runs if new.length is not None and new.runs else old.runs
    return new.model_copy(update=carried | {"figures": part, "runs": runs})
