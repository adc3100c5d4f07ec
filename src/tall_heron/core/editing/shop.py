"""What is said for bench and buying, each a new document: ports looked at, adapters chosen, where a
hose is made, what is there, what waits for spring, plate, injectors, rail.
"""

from collections.abc import Sequence
from typing import Any

from tall_heron.core.base.errors import wrong
from tall_heron.core.document.build import Build, checked
from tall_heron.core.document.faces import face
from tall_heron.core.document.kinds import LINES
from tall_heron.core.document.shop import Fold, OnPlate, Plate, Shop
from tall_heron.core.editing.fields import part_of
from tall_heron.core.editing.topology import insert
from tall_heron.core.joining.chains import named
from tall_heron.core.joining.joints import Joint, Joints, Side, joints_of
from tall_heron.core.shelf import shelf
from tall_heron.core.shelf.shelf import ShelfPart


def with_shop(build: Build, **changes: Any) -> Build:
    """The build with other fields of its shop. Raises BuildErrors."""
    return build.model_copy(update={"shop": checked(Shop, build.shop.model_dump() | changes)})


def set_face(build: Build, element_id: str, port: str, text: str) -> Build:
    """Say what a port of a part really is, or with an empty text take that back. Raises
    BuildErrors.
    """
    element = part_of(build, element_id)
    known = {
        *element.ports,
        "gauge",
        "reference",
        "vent",
        "filler",
        "drain",
        "return",
        "overflow",
    } | ({"a", "b"} if element.kind in LINES else set())
    if port not in known:
        raise wrong("port", f"{element_id} has no port “{port}”")
    try:
        face_text = face(text).text if text.strip() else ""
    except ValueError as error:
        raise wrong("face", str(error)) from None
    own = {k: v for k, v in build.shop.faces.get(element_id, {}).items() if k != port} | (
        {port: face_text} if face_text else {}
    )
    return with_shop(
        build,
        faces={k: v for k, v in build.shop.faces.items() if k != element_id}
        | ({element_id: own} if own else {}),
    )


def choose_adapters(build: Build, key: str, names: Sequence[str]) -> Build:
    """Choose the adapters of a joint; none: by rule again. Raises BuildErrors."""
    joint = joints_of(build).by_key.get(key)
    if joint is None:
        raise wrong("joint", f"there is no connection “{key}”")
    if names and named(joint.one.face, tuple(names), joint.other.face) is None:
        raise wrong(
            "joint",
            f"{', '.join(names)} does not join a {joint.one.face.words} and a {joint.other.face.words}",
        )
    return with_shop(
        build,
        joints={k: v for k, v in build.shop.joints.items() if k != key}
        | ({key: list(names)} if names else {}),
    )


def fit_adapters(build: Build, key: str) -> Build:
    """Draw the adapters of a joint in the circuit, as parts of their own; a joint without any is
    left as it is. Raises BuildErrors.
    """
    joints = joints_of(build)
    joint = joints.at(key)
    if joint is None:
        raise wrong("joint", f"there is no connection “{key}”")
    if not joint.pieces:
        return build
    side = next((s for s in (joint.one, joint.other) if drawable(build, s)), None)
    if side is None:
        raise wrong(
            "joint", "neither side carries fuel through this connection in the circuit's sums"
        )
    before = side.port in ("a", "start")
    pieces = joint.pieces if side is joint.one else tuple(reversed(joint.pieces))
    taps = {j.one.element for j in joints.joints if j.other.key == f"{side.element}.gauge"}
    at = side.element
    for p in pieces:
        build, at = insert(build, at, p.name, before)
    build = _taps_stay(build, side.element, "start" if before else "end", taps)
    return with_shop(
        build, joints={k: v for k, v in build.shop.joints.items() if k != key}
    )  # what was chosen there is drawn now


def _taps_stay(build: Build, element_id: str, port: str, taps: set[str]) -> Build:
    """The build with gauges that screw into a part still at that part, now that its port stands at
    a place of its own.
    """
    if not taps:
        return build
    node = part_of(build, element_id).ports[port]
    elements = [
        e.model_copy(update={"ports": {"start": node}}) if e.id in taps else e
        for e in build.circuit.elements
    ]
    return build.model_copy(
        update={"circuit": build.circuit.model_copy(update={"elements": elements})}
    )


def drawable(build: Build, side: Side) -> bool:
    """Whether adapters can be drawn at a side of a joint: at the start or the end of what fuel runs
    through.
    """
    e = build.circuit.element(side.element)
    return (
        e is not None
        and {"start", "end"} <= set(e.ports)
        and side.port in (("a", "b") if side.line else ("start", "end"))
    )


def fit_every_adapter(build: Build) -> Build:
    """Draw the adapters of every joint that fuel runs through. Raises BuildErrors."""
    for joint in to_draw(build, joints_of(build)):
        build = fit_adapters(build, joint.key)
    return build


def to_draw(build: Build, joints: Joints) -> list[Joint]:
    """The joints with adapters that are not drawn and can be."""
    return [
        j for j in joints.joints if j.pieces and any(drawable(build, s) for s in (j.one, j.other))
    ]


def set_made(build: Build, line: str, where: str) -> Build:
    """Say where a hose is made, `bench` or `car`; empty: by rule. Raises BuildErrors."""
    part_of(build, line)
    return with_shop(
        build,
        made={k: v for k, v in build.shop.made.items() if k != line}
        | ({line: where} if where else {}),
    )


def set_have(build: Build, key: str, quantity: float) -> Build:
    """Say how much of an item is there already. Raises BuildErrors."""
    return with_shop(
        build,
        have={k: v for k, v in build.shop.have.items() if k != key}
        | ({key: quantity} if quantity else {}),
    )


def set_item_price(build: Build, key: str, price: float | None) -> Build:
    """Say what a piece of an item costs, in the shelf's dollars; of hose a meter; None: as the
    shelf says. Raises BuildErrors.
    """
    return with_shop(
        build,
        prices={k: v for k, v in build.shop.prices.items() if k != key}
        | ({key: price} if price is not None else {}),
    )


def set_supplier(build: Build, key: str, supplier: str, days: int | None) -> Build:
    """Say who has an item and in how many days it is there; without a name: as the stand-ins say.
    Raises BuildErrors.
    """
    rest = {k: v.model_dump() for k, v in build.shop.suppliers.items() if k != key}
    return with_shop(
        build, suppliers=rest | ({key: {"supplier": supplier, "days": days}} if supplier else {})
    )


def set_offcuts(build: Build, name: str, lengths: Sequence[float]) -> Build:
    """Say which lengths of a hose lie in the workshop [mm]. Raises BuildErrors."""
    return with_shop(
        build,
        offcuts={k: v for k, v in build.shop.offcuts.items() if k != name}
        | ({name: list(lengths)} if lengths else {}),
    )


def plan_later(build: Build, part: str, name: str, own: Sequence[ShelfPart] = ()) -> Build:
    """Plan a swap for spring, or take it back with an empty name. Raises BuildErrors."""
    element = part_of(build, part)
    if name and name not in {p.name for p in shelf.swaps_for(element, own)}:
        raise wrong("later", f"“{name}” cannot take the place of {part}; choose one from the list")
    return with_shop(
        build,
        later={k: v for k, v in build.shop.later.items() if k != part}
        | ({part: name} if name else {}),
    )


def set_plate(build: Build, plate: Plate | None) -> Build:
    """Lay out the plate, or forget it. Raises BuildErrors."""
    return with_shop(build, plate=plate.model_dump() if plate is not None else None)


def move_on_plate(
    build: Build,
    plate: Plate,
    part: str,
    x: float | None,
    y: float | None,
    turned: float | None,
    off: bool = False,
    across: float | None = None,
) -> Build:
    """Move or turn a part on the plate [mm, deg], say how far it is across [mm], put it on, or take
    it off. Raises BuildErrors.
    """
    part_of(build, part)
    here = next(
        (p for p in plate.parts if p.part == part),
        OnPlate(part=part, x_mm=plate.wide_mm / 2, y_mm=plate.high_mm / 2),
    )
    changes = {
        k: v
        for k, v in (("x_mm", x), ("y_mm", y), ("turned_deg", turned), ("across_mm", across))
        if v is not None
    }
    others = [p.model_dump() for p in plate.parts if p.part != part]
    moved = checked(
        Plate,
        plate.model_dump() | {"parts": others if off else [*others, here.model_dump() | changes]},
    )
    return set_plate(build, moved)


def fold_plate(build: Build, plate: Plate, side: str, mm: float) -> Build:
    """Fold a side of the plate up by so much [mm]; 0 leaves it flat. Raises BuildErrors."""
    others = [f.model_dump() for f in plate.folds if f.side != side]
    folded = checked(
        Plate,
        plate.model_dump()
        | {"folds": [*others, *([Fold(side=side, mm=mm).model_dump()] if mm else [])]},
    )
    return set_plate(build, folded)
