"""Whether injectors fit between rail and manifold, and what a rail drilled for a port has left;
each with its arithmetic.
"""

from dataclasses import dataclass

from tall_heron.core.base.arithmetic import Why
from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.document.build import Build
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.faces import Face, face
from tall_heron.core.document.figures import Loss, Pipe
from tall_heron.core.joining.joints import joints_of


@dataclass(frozen=True)
class InjectorSheet:
    """Injectors between their seats: the part, its body [mm], the spacer under the rail's feet or
    over the injector [mm] (below 0: the rail must come up), what is wrong, what nobody said.
    """

    element: Element
    body_mm: float | None
    gap_mm: float | None
    spacer_mm: float | None
    says: str
    wrong: tuple[str, ...]
    unsaid: tuple[str, ...]
    why: Why


def make_injector_sheets(build: Build) -> list[InjectorSheet]:
    """Every set of injectors."""
    return [_injectors(build, e) for e in build.circuit.of_kind("injectors")]


def _injectors(build: Build, e: Element) -> InjectorSheet:
    fit, body = build.shop.injectors, e.properties.body_mm
    unsaid = [
        word
        for word, value in (
            ("the injector's body", body),
            ("the gap from seat to seat", fit.gap_mm),
            ("the rail's pocket", fit.rail_bore_mm),
            ("the manifold's pocket", fit.manifold_bore_mm),
            ("the room over the plug", fit.plug_room_mm),
        )
        if value is None
    ]
    wrong, steps, spacer, says = (
        [],
        [],
        None,
        "Measure the gap from seat to seat, with the rail on its feet.",
    )
    if body is not None and fit.gap_mm is not None:
        spacer, give = fit.gap_mm - body, house_figure("injector_squeeze_mm")
        steps.append(f"{fit.gap_mm:g} mm from seat to seat − {body:g} mm body = {_mm(spacer)}")
        if abs(spacer) <= give:
            says, spacer = (
                f"They fit: {abs(spacer):.1f} mm is within what an injector may float ({give:g} mm).",
                0.0,
            )
        elif spacer > 0:
            says = f"Each needs a spacer of {spacer:.1f} mm, over it or between it and the manifold, with a seal of its own; or the rail's feet come down by as much."
            wrong.append(
                f"the body is {spacer:.1f} mm shorter than the gap, and nothing holds it down"
            )
        else:
            says = f"The rail's feet need spacers of {-spacer:.1f} mm: as it is, the rail presses on the injectors."
            wrong.append(f"the body is {-spacer:.1f} mm longer than the gap")
    low, high = house_figure("injector_bore_least_mm"), house_figure("injector_bore_most_mm")
    for word, bore in (("rail", fit.rail_bore_mm), ("manifold", fit.manifold_bore_mm)):
        if bore is not None and not low <= bore <= high:
            wrong.append(
                f"the {word}'s pocket of {bore:g} mm {'cuts' if bore < low else 'does not squeeze'} a 14 mm O-ring: {low:g} mm to {high:g} mm do"
            )
    need = house_figure("plug_room_mm")
    if fit.plug_room_mm is not None and fit.plug_room_mm < need:
        wrong.append(
            f"{fit.plug_room_mm:g} mm over the plug is too little: {need:g} mm let it be put on and off"
        )
    return InjectorSheet(
        e,
        body,
        fit.gap_mm,
        spacer,
        says,
        tuple(wrong),
        tuple(unsaid),
        Why(tuple(steps), "Pockets, play and room for the plug: common practice."),
    )


@dataclass(frozen=True)
class RailSheet:
    """A rail drilled for a port: the face, drill, full thread and how deep to drill [mm], metal
    left beside the thread [mm], thread over its diameter; what is wrong, what nobody said.
    """

    element: Element
    port: Face
    drill_mm: float | None
    thread_mm: float | None
    deep_mm: float | None
    wall_mm: float | None
    engaged: float | None
    wrong: tuple[str, ...]
    unsaid: tuple[str, ...]
    why: Why


def rail_bore(e: Element) -> float | None:
    """A rail's bore [mm] where its law says one."""
    return e.figures.bore_mm if isinstance(e.figures, Loss | Pipe) else None


def make_rail_sheets(build: Build) -> list[RailSheet]:
    """Every rail, for the port that somebody wants in it, else for the one that meets its line."""
    own_rail, joints = build.shop.rail, joints_of(build)
    out = []
    for e in build.circuit.of_kind("rail"):
        met = [
            s.face
            for j in joints.of(e.id)
            for s in (j.one, j.other)
            if s.element == e.id and s.face.sort in ("port", "pipe")
        ]
        port = (
            face(own_rail.port)
            if own_rail.port
            else next((f for f in met if f.sort == "port"), Face("port", "-8"))
        )
        out.append(
            _rail(e, port, own_rail.across_mm, own_rail.bore_mm or rail_bore(e), own_rail.deep_mm)
        )
    return out


def _rail(
    e: Element, port: Face, across: float | None, bore: float | None, room: float | None
) -> RailSheet:
    row = port.row or {}
    drill, pitch, major = row.get("drill_mm"), row.get("pitch_mm") or 0.0, port.major_mm
    thread = row.get("depth_mm") or row.get("effective_mm")
    deep = thread + house_figure("tap_runout_pitches") * pitch if thread else None
    wrong, steps = [], []
    wall = (across - major) / 2 if across is not None and major else None
    least = house_figure("wall_left_mm")
    if wall is not None:
        steps.append(
            f"({across:g} mm across − {major:.2f} mm thread) / 2 = {_mm(wall)} of metal beside it"
        )
        if wall < least:
            wrong.append(
                f"{max(wall, 0):.1f} mm of metal is left beside the thread; {least:g} mm is the least: a smaller port, or a wider rail"
            )
    if drill and bore is not None and bore > drill:
        wrong.append(
            f"the bore of {bore:g} mm is wider than the drill of {drill:g} mm: there is nothing to cut a thread in; the next port is larger"
        )
    if deep is not None:
        steps.append(
            f"{thread:g} mm of full thread + {house_figure('tap_runout_pitches'):g} × {pitch:g} mm = {_mm(deep)} deep"
        )
        if room is not None and room < deep:
            wrong.append(f"it may be drilled {room:g} mm deep and needs {deep:.1f} mm")
    engaged = (
        min(thread, room) / major
        if thread and room is not None and major
        else thread / major
        if thread and major
        else None
    )
    if (
        engaged is not None
        and port.sort == "port"
        and room is not None
        and engaged < 0.6 * house_figure("engagement_diameters")
    ):
        wrong.append(
            f"{engaged:.1f} diameters of thread hold too little in aluminum; {house_figure('engagement_diameters'):g} is wanted"
        )
    unsaid = tuple(
        w
        for w, v in (
            ("how wide the rail is across the port", across),
            ("its bore", bore),
            ("how deep it may be drilled", room),
        )
        if v is None
    )
    source = "Drill, thread and depth: SAE J1926 or ASME B1.20.1, from memory; metal left beside it: common practice."
    return RailSheet(
        e, port, drill, thread, deep, wall, engaged, tuple(wrong), unsaid, Why(tuple(steps), source)
    )


def _mm(value: float) -> str:
    return f"{value:.1f} mm".replace("-", "−")
