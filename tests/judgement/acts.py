"""The mistakes that builders make, as acts on a build: each takes a build and the figures of one
row of mistakes.json.
"""

from collections.abc import Callable
from typing import Any

from tall_heron.core.document.build import Build, dump, load, validate
from tall_heron.core.document.circuit import Stage
from tall_heron.core.document.own_case import OwnCase
from tall_heron.core.document.shop import Shop
from tall_heron.core.document.space import Zone
from tall_heron.core.editing import drawn, fields, route, topology, wiring
from tall_heron.core.editing.additions import ADDITIONS
from tall_heron.core.editing.change_layout import change_layout
from tall_heron.core.routing.laid import lay_out
from tall_heron.core.routing.vectors import add_vectors


def _set(build: Build, element_id: str, path: str, value: Any) -> Build:
    """A field of a part by its path, such as `properties/micron`."""
    data = build.model_dump(mode="json", exclude_none=True)
    at = next(e for e in data["circuit"]["elements"] if e["id"] == element_id)
    *way, last = path.split("/")
    for key in way:
        at = at.setdefault(key, {})
    at[last] = value
    return validate(data)


def _node(build: Build, node: str, **changes: Any) -> Build:
    data = build.model_dump(mode="json", exclude_none=True)
    next(n for n in data["circuit"]["nodes"] if n["id"] == node).update(changes)
    return validate(data)


def _brief(build: Build, field: str, value: Any) -> Build:
    """A figure of the brief alone: what is fitted stays set as it is."""
    data = build.model_dump(mode="json", exclude_none=True)
    data["brief"][field] = value
    return validate(data)


def _shift(build: Build, line: str, by: list[float], *which: int) -> Build:
    """Some corners of a line moved [mm]."""
    corners = lay_out(build).lines[line].run.corners
    return route.draw_line(
        build, line, [add_vectors(c, tuple(by)) if i in which else c for i, c in enumerate(corners)]
    )


def _zone(
    build: Build,
    kind: str,
    low: list[float],
    high: list[float],
    changes: dict[str, Any] | None = None,
) -> Build:
    return route.set_zone(
        build,
        Zone.model_validate(
            {"name": "extra", "kind": kind, "low": low, "high": high} | (changes or {})
        ),
    )


def _without_branch(build: Build, pump: str) -> Build:
    data = build.model_dump(mode="json", exclude_none=True)
    del data["wiring"]["branches"][pump]
    return validate(data)


ACTS: dict[str, Callable[..., Build]] = {
    "fit": fields.fit,
    "set": _set,
    "remove": fields.remove,
    "out": topology.take_out,
    "whole": topology.take_out_whole,
    "turn": topology.turn_round,
    "before": lambda build, at, name: topology.insert(build, at, name, True)[0],
    "behind": lambda build, at, name: topology.insert(build, at, name, False)[0],
    "tap": lambda build, at, name: topology.add_tap(build, at, name)[0],
    "add": lambda build, what, at: ADDITIONS[what].add(build, at)[0],
    "second": lambda build, at: topology.second_pump(build, at)[0],
    "rejoin": topology.rejoin,
    "height": lambda build, node, mm: _node(build, node, elevation_mm=mm),
    "ahead": lambda build, node, mm: _node(build, node, ahead_mm=mm, place_source="measured"),
    "level": topology.set_level,
    "length": fields.set_length,
    "end": fields.set_end,
    "stage": lambda build, at, by, figure, off=None: fields.set_stage(
        build, at, Stage(by=by, at=figure, off_at=off)
    ),
    "brief": _brief,
    "layout": lambda build, key: change_layout(build, key).build,
    "wire": lambda build: wiring.wire_by_rule(build),
    "unwired": wiring.unwired,
    "branch": lambda build, pump, changes: wiring.set_branch(build, pump, **changes),
    "relay": lambda build, name, changes: wiring.set_relay(build, name, **changes),
    "wiring": lambda build, part, changes: wiring.set_wiring(build, part, **changes),
    "load": wiring.set_load,
    "draw": lambda build, line, corners: route.draw_line(build, line, [tuple(c) for c in corners]),
    "move": lambda build, part, at: route.move_part(build, part, tuple(at)),
    "radius": route.set_radius,
    "unguard": lambda build, line: route.remove_guard(build, line, 0),
    "clamps": route.set_clamps,
    "shift": _shift,
    "zone": _zone,
    "clock": fields.set_clock,
    "follow": drawn.followed,
    "shop": lambda build, changes: build.model_copy(
        update={"shop": Shop.model_validate(build.shop.model_dump() | changes)}
    ),
    "case": lambda build, case: build.model_copy(update={"cases": [OwnCase.model_validate(case)]}),
    "no branch": _without_branch,
}


def acted(build: Build, acts: list[list[Any]]) -> Build:
    """A build after some acts, saved and opened again."""
    for name, *figures in acts:
        build = ACTS[name](build, *figures)
    return load(dump(build))
