"""What stands inside a tank, as it is typed."""

import re

from pydantic import ValidationError

from tall_heron.core.base.errors import BuildError, BuildErrors
from tall_heron.core.base.units import parse
from tall_heron.core.document.build import Build, readable
from tall_heron.core.document.circuit import Circuit
from tall_heron.core.document.tank_inside import Inside
from tall_heron.core.hydraulics.vessel import make_tank

_WALL = re.compile(
    r"^(?P<way>across|along)\s+(?P<at>[^,;]+)[,;]\s*(?P<area>[\d.,]+)\s*(?P<unit>mm2|mm²|cm2|cm²)(?:\s*[,;]\s*(?P<door>forward|back|right|left))?$",
    re.IGNORECASE,
)
PER_CM2 = 100.0  # mm2


def with_inside(circuit: Circuit, tank: str, inside: Inside | None) -> Circuit:
    """The circuit with a tank's inside."""
    elements = [
        e.model_copy(update={"properties": e.properties.model_copy(update={"inside": inside})})
        if e.id == tank
        else e
        for e in circuit.elements
    ]
    return circuit.model_copy(update={"elements": elements})


def with_level_gauge(circuit: Circuit, tank: str, gauged: bool | None) -> Circuit:
    """The circuit with a level gauge for a tank, or without."""
    elements = [
        e.model_copy(update={"properties": e.properties.model_copy(update={"level_gauge": gauged})})
        if e.id == tank
        else e
        for e in circuit.elements
    ]
    return circuit.model_copy(update={"elements": elements})


def set_inside(build: Build, tank: str, typed: dict[str, str], length_unit: str) -> Build:
    """A build with a tank's inside as it is typed. Raises BuildErrors with the field: ahead, right,
    walls, side, hump or lies.
    """
    element = build.circuit.element(tank)
    if element is None or element.kind != "tank":
        raise BuildErrors([BuildError("/tank", f"there is no tank {tank} in this circuit")])
    fields = {
        "turned": {"along": False, "across": True}.get(typed.get("lies", "")),
        "pickup_ahead_mm": _length("ahead", typed, length_unit),
        "pickup_right_mm": _length("right", typed, length_unit),
        "baffles": [
            _wall(line, length_unit) for line in typed.get("walls", "").splitlines() if line.strip()
        ],
        "side": [_corner(pair) for pair in typed.get("side", "").split(";") if pair.strip()],
        "hump_high_mm": _length("hump_high", typed, length_unit),
        "hump_wide_mm": _length("hump_wide", typed, length_unit),
    }
    try:
        inside = Inside.model_validate(fields)
    except ValidationError as error:
        first = error.errors()[0]
        where = (
            str(first["loc"][0])
            if first["loc"]
            else "side"
            if "side" in first["msg"]
            else "hump_high"
            if "hump" in first["msg"]
            else "walls"
        )
        raise BuildErrors(
            [BuildError(f"/{FIELDS.get(where, where)}", readable(first).message)]
        ) from None
    if (
        element.properties.long_mm is not None
        and make_tank(element.properties.model_copy(update={"inside": inside})) is None
    ):
        raise BuildErrors(
            [
                BuildError(
                    "/ahead",
                    "the outlet lies where the tank has no room: above its hump or beside its side",
                )
            ]
        )
    circuit = with_inside(build.circuit, tank, inside if inside != Inside() else None)
    return build.model_copy(
        update={
            "circuit": with_level_gauge(
                circuit, tank, {"yes": True, "no": False}.get(typed.get("gauge", ""))
            )
        }
    )


FIELDS = {
    "baffles": "walls",
    "pickup_ahead_mm": "ahead",
    "pickup_right_mm": "right",
    "hump_high_mm": "hump_high",
    "hump_wide_mm": "hump_wide",
    "turned": "lies",
}


def _length(name: str, typed: dict[str, str], unit: str) -> float | None:
    text = typed.get(name, "").strip()
    if not text:
        return None
    try:
        return 1000 * parse(text, "length", unit)
    except ValueError as error:
        raise BuildErrors([BuildError(f"/{name}", str(error))]) from None


def _wall(line: str, unit: str) -> dict[str, object]:
    match = _WALL.match(line.strip())
    if match is None:
        raise BuildErrors(
            [
                BuildError(
                    "/walls",
                    f"“{line.strip()[:40]}” is not a wall; write for example: across 380 mm, 18 cm2, back",
                )
            ]
        )
    area = match["area"].replace(",", ".")
    try:
        at = 1000 * parse(match["at"], "length", unit)
        open_mm2 = float(area) * (PER_CM2 if match["unit"].lower().startswith("cm") else 1.0)
    except ValueError as error:
        raise BuildErrors([BuildError("/walls", str(error))]) from None
    return {
        "way": match["way"].lower(),
        "at_mm": at,
        "open_mm2": open_mm2,
        "door": (match["door"] or "").lower(),
    }


def _corner(pair: str) -> tuple[float, float]:
    numbers = pair.split()
    try:
        ahead, up = (float(x.replace(",", ".")) for x in numbers)
    except ValueError:
        raise BuildErrors(
            [
                BuildError(
                    "/side",
                    f"“{pair.strip()[:30]}” is not a corner; write ahead and up in mm, corners apart by semicolons: 0 0; 600 0; 600 220; 0 220",
                )
            ]
        ) from None
    return ahead, up


def walls_text(inside: Inside) -> str:
    """The walls as they would be typed, a line each."""
    return "\n".join(
        f"{w.way} {w.at_mm:g} mm, {w.open_mm2 / PER_CM2:g} cm2{f', {w.door}' if w.door else ''}"
        for w in inside.baffles
    )


def side_text(inside: Inside) -> str:
    """The side as it would be typed [mm]."""
    return "; ".join(f"{x:g} {z:g}" for x, z in inside.side)
