"""What may be done on the page of the route: each act is read from the request, made on the build
and named; the same acts are tried while a point is dragged.
"""

from typing import Any

from pydantic import ValidationError

from tall_heron.core.base.constants import CELSIUS
from tall_heron.core.document.build import Build, readable
from tall_heron.core.document.space import OUTLINES, Panel, Zone
from tall_heron.core.editing import route as edit
from tall_heron.core.editing.ground import off_ground, put_ground, scale_ground
from tall_heron.core.editing.zones import draw_zone
from tall_heron.core.routing.laid import lay_out
from tall_heron.core.routing.outline import WORDS, Outline
from tall_heron.core.routing.suggest import suggestions
from tall_heron.core.routing.tape import read_points
from tall_heron.core.rules import check_route
from tall_heron.core.study.study import make_study
from tall_heron.web import answers
from tall_heron.web.answers import Act, Made
from tall_heron.web.forms import reading
from tall_heron.web.forms.field import Field, OfRecord
from tall_heron.web.show.units import unit
from tall_heron.web.stations.route.frame import (
    meant,
    number_of,
    places_of,
    read_degrees,
    read_mm,
    read_place,
)
from tall_heron.web.stations.route.pictures import TURNS, kept_picture, turned_picture


def _line(data: dict[str, Any]) -> str:
    return reading.text_of(data, "line")[:40]


def _outline(build: Build) -> Outline:
    return lay_out(build).outline


def corners(build: Build, data: dict[str, Any]) -> Made:
    """A line through corners as they were dragged."""
    line = _line(data)
    what = str(data.get("what") or "moved")[:24]
    return edit.draw_line(build, line, places_of(data, "corners")), f"{line}: corner {what}"


def corner(build: Build, data: dict[str, Any]) -> Made:
    """One corner typed."""
    line, at = _line(data), int(number_of(data, "at", 1000))
    found = edit.laid_line(build, line)
    points = list(found.run.corners)
    if not 0 <= at < len(points):
        raise reading.Refused("at", f"{line} has no corner {at + 1}.")
    points[at] = read_place(_outline(build), data)
    return edit.draw_line(build, line, points), f"{line}: corner {at + 1} typed"


def paste(build: Build, data: dict[str, Any]) -> Made:
    """Points measured with a tape in place of a line's corners."""
    line, outline = _line(data), _outline(build)
    try:
        points = [
            meant(outline, p)
            for p in read_points(reading.text_of(data, "text"), unit("length").word)
        ]
    except ValueError as error:
        raise reading.Refused("text", reading.sentence(str(error))) from None
    if len(points) > 60:
        raise reading.Refused(
            "text",
            f"{len(points)} points are too many for one line; 60 at most. Leave out those on the straights.",
        )
    return edit.draw_line(build, line, points), f"{line}: {len(points)} measured points"


def part(build: Build, data: dict[str, Any]) -> Made:
    """A part dragged somewhere."""
    name = reading.text_of(data, "part")[:40]
    at = places_of({"to": [data.get("to")]}, "to")[0]
    return edit.move_part(build, name, at), f"{name} moved"


def place(build: Build, data: dict[str, Any]) -> Made:
    """A part's place and turn typed."""
    name = reading.text_of(data, "part")[:40]
    turns = [
        read_degrees(data, field, field, most) for field, most in (("yaw", 360), ("pitch", 180))
    ]
    return edit.move_part(build, name, read_place(_outline(build), data), *turns), f"{name} placed"


def forget(build: Build, data: dict[str, Any]) -> Made:
    """A line or part as usual again."""
    name = reading.text_of(data, "name")[:40]
    return edit.usual_again(build, name), f"{name}: as usual again"


def radius(build: Build, data: dict[str, Any]) -> Made:
    """The radius of a line's bends."""
    line, text = _line(data), reading.text_of(data, "text")
    mm = read_mm(data, "text", "radius") if text.strip() else None
    if mm is not None and not 1 <= mm <= 5000:
        raise reading.Refused(
            "radius",
            "A radius lies between 1 mm and 5 m; empty takes the least of its sheet and a tenth.",
        )
    return edit.set_radius(
        build, line, mm
    ), f"{line}: bends {f'R {mm:.0f} mm' if mm is not None else 'as usual'}"


def _turned(build: Build, data: dict[str, Any], side: str) -> Made:
    line = _line(data)
    degrees = read_degrees(data, "text", f"turned_{side}", 360)
    return edit.turn_end(
        build, line, side, degrees
    ), f"{line}: end {side.upper()} turned {degrees:g}°"


def turned_a(build: Build, data: dict[str, Any]) -> Made:
    """End A turned on its port."""
    return _turned(build, data, "a")


def turned_b(build: Build, data: dict[str, Any]) -> Made:
    """End B turned on its port."""
    return _turned(build, data, "b")


def measured(build: Build, data: dict[str, Any]) -> Made:
    """What a line measures on the vehicle."""
    line, text = _line(data), reading.text_of(data, "text").strip()
    mm = read_mm(data, "text", "measured") if text else None
    return edit.measured(
        build, line, mm, text or None
    ), f"{line}: {'measured ' + text if text else 'length as drawn'}"


def clamps(build: Build, data: dict[str, Any]) -> Made:
    """Clamps dragged, put or taken."""
    line, value = _line(data), data.get("clamps")
    if value is None:
        return edit.suggest_clamps(build, line), f"{line}: clamps suggested"
    if not isinstance(value, list) or len(value) > 200:
        raise reading.Refused("clamps", "Those are no clamps that a page would send.")
    return edit.set_clamps(
        build, line, [number_of({"clamps": c}, "clamps") for c in value]
    ), f"{line}: clamps"


def clamped(build: Build, data: dict[str, Any]) -> Made:
    """Clamps typed as places along the line; none for clamps by rule."""
    line, text = _line(data), reading.text_of(data, "text").replace(";", ",").strip()
    at = (
        [read_mm({"text": part}, "text", "clamped") for part in text.split(",") if part.strip()]
        if text
        else None
    )
    return edit.set_clamps(
        build, line, at
    ), f"{line}: clamps {'typed' if at is not None else 'automatically'}"


def guard(build: Build, data: dict[str, Any]) -> Made:
    """Something that protects a stretch."""
    line, kind = _line(data), reading.text_of(data, "kind")[:30]
    return edit.add_guard(
        build, line, kind, read_mm(data, "from", "from"), read_mm(data, "to", "to")
    ), f"{line}: {kind}"


def unguard(build: Build, data: dict[str, Any]) -> Made:
    """A guard taken off."""
    line = _line(data)
    return edit.remove_guard(build, line, int(number_of(data, "at", 1000))), f"{line}: guard off"


def grommet(build: Build, data: dict[str, Any]) -> Made:
    """A grommet at a panel, or none."""
    line, panel, on = _line(data), reading.text_of(data, "panel")[:40], data.get("on") is not False
    return edit.set_grommet(
        build, line, panel, on
    ), f"{line}: {'grommet' if on else 'no grommet'} at the {panel}"


def bulkhead(build: Build, data: dict[str, Any]) -> Made:
    """A bulkhead union at a panel."""
    line, panel = _line(data), reading.text_of(data, "panel")[:40]
    made, tag = edit.add_bulkhead(build, line, panel)
    return made, f"{tag}: bulkhead of {line} at the {panel}"


def beside(build: Build, data: dict[str, Any]) -> Made:
    """A line beside another."""
    line, other = _line(data), reading.text_of(data, "other")[:40]
    return edit.run_beside(build, line, other), f"{line} beside {other}"


def way(build: Build, data: dict[str, Any]) -> Made:
    """A suggested way fitted."""
    line, number = _line(data), int(number_of(data, "way", 10))
    laid = lay_out(build)
    found = suggestions(laid, edit.laid_line(build, line, laid))
    if not 0 <= number < len(found):
        raise reading.Refused("way", "That route is no longer there; try again.")
    return edit.draw_line(build, line, found[number].corners), f"{line}: {found[number].name}"


MOST_LED = 12  # lines in one press
MOST_ROUNDS = 4  # of looking at what was led


def lead(build: Build, _: dict[str, Any]) -> Made:
    """Every line that nobody has drawn, along its suggested way."""
    made, led, asked = edit.lead_all(build, MOST_LED)
    if not led:
        raise reading.Refused(
            "act",
            "Every line is drawn already."
            if not asked
            else "No route was found; try single lines.",
        )
    made, left = without_stops(build, made)
    if led == left:
        raise reading.Refused("act", "Each route found brings a Stop; draw the lines one by one.")
    more = f"; {left} left for you, since each route brings a Stop" if left else ""
    return made, f"{led - left} of {asked} lines routed" + (
        more or ("" if led == asked else "; press again for the rest")
    )


def without_stops(before: Build, led: Build) -> tuple[Build, int]:
    """What was led, but for lines that bring a Stop of the route: those are as before; and how many
    they are.
    """
    left: set[str] = set()
    known = {(f.rule, f.element_id) for f in check_route(make_study(before))[0]}
    for _ in range(MOST_ROUNDS):
        bad = {
            f.element_id
            for f in check_route(make_study(led))[0]
            if f.level == "Stop" and (f.rule, f.element_id) not in known
        } - left
        bad &= set(led.space.routes) - set(before.space.routes)
        if not bad:
            break
        for line in bad:
            led = edit.usual_again(led, line)
        left |= bad
    return led, len(left)


def outline(build: Build, data: dict[str, Any]) -> Made:
    """Another outline."""
    name = reading.text_of(data, "text")
    if name not in OUTLINES:
        raise reading.Refused("outline", f"Choose one of {', '.join(OUTLINES)}.")
    return edit.set_outline(build, name), f"Outline: {name}"


def dimension(build: Build, data: dict[str, Any]) -> Made:
    """A main dimension of the vehicle."""
    name, text = reading.text_of(data, "name")[:30], reading.text_of(data, "text").strip()
    if name not in WORDS:
        raise reading.Refused(
            "name", f"A vehicle has no such dimension; it has {', '.join(WORDS)}."
        )
    mm = read_mm(data, "text", f"dim-{name}") if text else None
    if mm is not None and not 20 <= mm <= 40_000:
        raise reading.Refused(
            f"dim-{name}", "A dimension lies between 20 mm and 40 m; empty takes the outline's own."
        )
    return edit.set_dimension(build, name, mm), f"{name.replace('_', ' ')}: {text or 'as drawn'}"


def ground(build: Build, data: dict[str, Any]) -> Made:
    """A picture that was sent, under a view."""
    view, sha = reading.text_of(data, "view"), reading.text_of(data, "sha256")
    return put_ground(build, view, sha, *kept_picture(sha)), f"Picture under the {view} view"


def turn_ground(build: Build, data: dict[str, Any]) -> Made:
    """A picture under a view mirrored, or turned a quarter; what was scaled by clicks is scaled
    anew.
    """
    view, how = str(data.get("view") or ""), str(data.get("how") or "")
    old = next((g for name, g in build.space.grounds.items() if name == view), None)
    if old is None or how not in TURNS:
        raise reading.Refused(
            "ground", f"A picture under a view is turned by {' or '.join(TURNS)}."
        )
    sha = turned_picture(old.sha256, how)
    return put_ground(
        build, view, sha, *kept_picture(sha)
    ), f"{view} picture: {'seen from the other side' if how == 'mirror' else 'a quarter turn'}"


def scale(build: Build, data: dict[str, Any]) -> Made:
    """A picture scaled by two clicks and a dimension, and set on the ground by a third."""
    view = str(data.get("view") or "")
    points = [flat_of(p) for p in data.get("points") or []]
    if len(points) not in (2, 3):
        raise reading.Refused(
            "ground", "Click two places a known way apart, and then a place on the ground."
        )
    mm = read_mm(data, "text", "ground")
    return scale_ground(
        build, view, points[0], points[1], mm, points[2] if len(points) > 2 else None
    ), f"{view} picture: {str(data.get('text') or '')[:40]} between two places"


def unground(build: Build, data: dict[str, Any]) -> Made:
    """A picture taken off."""
    view = str(data.get("view") or "")
    return off_ground(build, view), f"No picture under the {view} view"


def flat_of(value: Any) -> tuple[float, float]:
    """A place along a view's axes [mm]. Refused where it is none."""
    if (
        not isinstance(value, list)
        or len(value) != 2
        or not all(isinstance(x, int | float) and abs(x) < 1e6 for x in value)
    ):
        raise reading.Refused("ground", "Those are no places that a page would send.")
    return float(value[0]), float(value[1])


SURFACE = Field(
    "temperature",
    "Its surface",
    "temperature",
    1.0,
    -CELSIUS,
    optional=True,
    bounds=OfRecord(Zone, "temperature_c"),
)


def zone(build: Build, data: dict[str, Any]) -> Made:
    """A zone put or changed: its corners are typed."""
    shape = _outline(build)
    low, high = (
        meant(shape, tuple(read_mm(data, f"{end}_{k}", f"{end}_{k}") for k in "xyz"))  # type: ignore[arg-type]
        for end in ("low", "high")
    )
    fields: dict[str, Any] = {
        "name": reading.text_of(data, "name").strip(),
        "title": reading.text_of(data, "name").strip(),
        "kind": reading.text_of(data, "kind"),
        "shape": reading.text_of(data, "shape"),
    }
    if fields["shape"] == "cylinder":
        fields |= {"low": low, "high": high, "radius_mm": read_mm(data, "radius", "radius_mm")}
    else:
        fields |= {"low": tuple(map(min, low, high)), "high": tuple(map(max, low, high))}
    surface = SURFACE.read(reading.text_of(data, "temperature"))
    if surface is not None:
        fields["temperature_c"] = surface
    fields["shielded"] = data.get("shielded") is True
    return edit.set_zone(build, _made(Zone, fields)), f"Zone: {fields['name']}"


def zone_drawn(build: Build, data: dict[str, Any]) -> Made:
    """A zone drawn as a rectangle on a view."""
    view, usual, name = (str(data.get(x) or "")[:40] for x in ("view", "usual", "name"))
    if not view or not usual:
        raise reading.Refused("zone", "Choose what it is, and draw it on a view.")
    points = [flat_of(p) for p in data.get("points") or []]
    if len(points) != 2:
        raise reading.Refused("zone", "Click two opposite corners of it.")
    return (
        draw_zone(build, name, usual, view, points[0], points[1]),
        f"Zone: {name.strip() or usual}, drawn from {'above' if view == 'plan' else 'the side' if view == 'side' else 'behind'}",
    )


def shifted(build: Build, data: dict[str, Any]) -> Made:
    """A zone or panel dragged."""
    name, by = reading.text_of(data, "name")[:40], places_of({"by": [data.get("by")]}, "by")[0]
    return edit.shift(build, name, by), f"{name} moved"


def panel(build: Build, data: dict[str, Any]) -> Made:
    """A panel put or changed."""
    shape = _outline(build)
    low, high = (
        meant(shape, tuple(read_mm(data, f"{end}_{k}", f"{end}_{k}") for k in "xyz"))  # type: ignore[arg-type]
        for end in ("low", "high")
    )
    name = reading.text_of(data, "name").strip()
    return edit.set_panel(
        build,
        _made(
            Panel,
            {
                "name": name,
                "title": name,
                "low": tuple(map(min, low, high)),
                "high": tuple(map(max, low, high)),
            },
        ),
    ), f"Panel: {name}"


def _made(model: type[Any], fields: dict[str, Any]) -> Any:
    try:
        return model.model_validate(fields)
    except ValidationError as error:
        first = readable(error.errors()[0])
        raise reading.Refused(
            first.field.strip("/").partition("/")[0] or "name", reading.sentence(first.message)
        ) from None


def without(build: Build, data: dict[str, Any]) -> Made:
    """A zone or panel that the vehicle does not have."""
    name = reading.text_of(data, "name")[:40]
    return edit.take_off(build, name), f"Without {name}"


def group(build: Build, data: dict[str, Any]) -> Made:
    """Lines that should be equally long."""
    name = reading.text_of(data, "name").strip()[:40] or "equal lines"
    return edit.set_group(
        build, name, reading.text_of(data, "lines").replace(",", " ").split()[:24]
    ), f"Equal: {name}"


def drawn(build: Build, data: dict[str, Any]) -> Made:
    """The drawing's lengths and heights."""
    return edit.take_drawn(build), "Lengths and heights as drawn"


DRAWN: tuple[Act, ...] = (
    corners,
    corner,
    paste,
    way,
    lead,
    beside,
    radius,
    turned_a,
    turned_b,
    measured,
    drawn,
    group,
)
FITTED: tuple[Act, ...] = (clamps, clamped, guard, unguard, grommet, bulkhead)
OF_SPACE: tuple[Act, ...] = (
    ground,
    turn_ground,
    scale,
    unground,
    part,
    place,
    forget,
    outline,
    dimension,
    zone,
    zone_drawn,
    shifted,
    panel,
    without,
)
ACTS: dict[str, Act] = {f.__name__: f for f in (*DRAWN, *FITTED, *OF_SPACE)}


def make(build: Build, data: dict[str, Any]) -> Made:
    """The act that a request asks for. Refused where there is none of that name, or it cannot be
    done, beside the field that is wrong.
    """
    reading.text_of(data, "act")  # a request without one is told so
    return answers.made_by(ACTS, build, data, "That is not something that is done on this page.")
