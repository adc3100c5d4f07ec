"""What the adapters take that joints need and the circuit does not draw: counted at once, so that
drawing them changes no figure.
"""

from collections.abc import Callable, Iterator
from functools import cache

from tall_heron.core.base.catalogue import by_name
from tall_heron.core.document.build import Build
from tall_heron.core.document.circuit import Element, Losses
from tall_heron.core.document.figures import Check, Loss, Pipe, Quadratic, Tee
from tall_heron.core.document.kinds import JOINED
from tall_heron.core.joining.joints import ENDS, Joint, Side, joints_of, same_joints
from tall_heron.core.physics.fittings import quadratic_coefficient

NARROW = 0.7  # of the bore of the larger side: two sizes down (common practice)
RESISTS = (Pipe, Loss, Check, Quadratic, Tee)  # figures to which a loss can be added
PORTS = {end: port for port, end in ENDS.items()}


def plumbed(build: Build) -> Build:
    """The build whose parts carry what their undrawn adapters take; itself where nothing there
    changes. Adapters between two parts that resist nothing, a pump on a tee, are left out.
    """
    losses: dict[str, Losses] = {}
    for joint in joints_of(build).joints:
        borne_by = bearer(build, joint) if joint.pieces else None
        if borne_by is not None:
            element, port = borne_by
            more = tuple((p.loss_coefficient, p.bore_mm) for p in joint.pieces)
            at = losses.setdefault(element.id, {})
            at[port] = (*at.get(port, ()), *more)
    elements = build.circuit.elements
    if all(e.adapters == losses.get(e.id, {}) for e in elements):
        return build
    new = [
        e if e.adapters == losses.get(e.id, {}) else e.with_adapters(losses.get(e.id, {}))
        for e in elements
    ]
    circuit = build.circuit.model_copy(update={"elements": new})
    same_joints(build, circuit)
    return build.model_copy(update={"circuit": circuit})


def bearer(build: Build, joint: Joint) -> tuple[Element, str] | None:
    """The part that bears what a joint's adapters take, and its port: the line there, else a part
    that resists; None where neither side carries fuel through the joint or takes anything.
    """
    sides = [x for side in (joint.one, joint.other) for x in _carries(build, side)]
    return next(
        ((e, port) for e, port in sides if isinstance(e.figures, Pipe)), sides[0] if sides else None
    )


def _carries(build: Build, side: Side) -> Iterator[tuple[Element, str]]:
    e = build.circuit.element(side.element)
    port = PORTS.get(side.port, side.port) if side.line else side.port
    if e is not None and port in e.ports and (isinstance(e.figures, RESISTS) or e.kind in JOINED):
        yield e, port


@cache
def _bore_of(size: str) -> float:
    """The through bore of a union of a size [mm]; 0 where there is none."""
    row = by_name("adapters").get(f"union{size}")
    return float(row["bore_mm"]) if row is not None else 0.0


def narrowed(joint: Joint) -> tuple[float, float] | None:
    """The narrowest bore of a joint's adapters, and the bore of the larger side [mm], where it is
    two sizes down; None else.
    """
    wide = max(_bore_of(s.face.size) for s in (joint.one, joint.other))
    least = min((p.bore_mm for p in joint.pieces), default=wide)
    return (least, wide) if wide and least < NARROW * wide else None


def taken(
    build: Build, joint: Joint, flow_of: Callable[[str], float], density: float
) -> float | None:
    """What a joint's adapters take [Pa] at the flow [m3/s] of the part that bears them; None where
    the sums do not have it.
    """
    borne_by = bearer(build, joint) if joint.pieces else None
    if borne_by is None:
        return None
    k = sum(
        quadratic_coefficient(p.loss_coefficient, p.bore_mm / 1000, density) for p in joint.pieces
    )
    return k * flow_of(borne_by[0].id) ** 2
