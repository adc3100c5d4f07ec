"""Builds that nobody lays out: a layout with parts put in, doubled, swapped and moved at random, as
a builder would one step after another.
"""

from collections.abc import Callable
from random import Random

from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.document.build import Brief, Build, validate
from tall_heron.core.editing.fields import fit
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.editing.topology import insert, second_pump, set_height, split
from tall_heron.core.shelf.shelf import swaps_for

PUT_IN = ("sedge-100", "sedge-40", "reedmace-10g", "rill-10", "shutoff-8", "union-8", "orifice-1")
STEPS = 4
Step = Callable[[Build, Random], Build]


def _part(build: Build, rnd: Random, *kinds: str) -> str:
    return rnd.choice(build.circuit.of_kind(*kinds) or build.circuit.elements).id


def _another_pump(build: Build, rnd: Random) -> Build:
    return second_pump(build, _part(build, rnd, "pump"))[0]


def _put_in(build: Build, rnd: Random) -> Build:
    return insert(
        build,
        _part(build, rnd, "pump", "hose", "line", "filter", "check"),
        rnd.choice(PUT_IN[:-1]),
        rnd.random() < 0.5,
    )[0]


def _lift(build: Build, rnd: Random) -> Build:
    return insert(
        build, _part(build, rnd, "filter", "strainer"), rnd.choice(("bulrush-150", "marrow-210"))
    )[0]


def _swap(build: Build, rnd: Random) -> Build:
    element = rnd.choice(
        [
            e
            for e in build.circuit.elements
            if e.kind in ("pump", "hose", "line", "filter", "strainer", "check", "regulator")
        ]
    )
    return fit(build, element.id, rnd.choice(swaps_for(element)).name)


def _split(build: Build, rnd: Random) -> Build:
    return split(build, _part(build, rnd, "hose", "line"))[0]


def _raise(build: Build, rnd: Random) -> Build:
    return set_height(build, _part(build, rnd, "pump"), "start", rnd.choice((-200.0, 0.0, 150.0)))


TRIES: tuple[Step, ...] = (_another_pump, _put_in, _put_in, _lift, _swap, _swap, _split, _raise)


def altered(seed: int) -> Build:
    """One build of a seed."""
    rnd = Random(seed)
    key = rnd.choice(
        [k for k in LAYOUTS if LAYOUTS[k].feeding == "injection" or rnd.random() < 0.5]
    )
    layout = LAYOUTS[key]
    asked: dict[str, object] = {
        "power_kw": rnd.uniform(90, 420),
        "base_kpa": 300.0,
        "feeding": layout.feeding,
        "cylinders": 6,
        "fuel": rnd.choice(("E0", "E10", "E70")),
    }
    if layout.feeding == "carburettor":
        asked["base_kpa"] = 42.0
    if layout.craft == "air":
        asked |= {
            "use": "flight",
            "fuel": "100LL",
            "power_kw": rnd.uniform(80, 200),
            "base_kpa": 300.0 if layout.feeding == "injection" else 25.0,
        }
    elif rnd.random() < 0.4:
        asked["boost_kpa"] = 90.0
    brief = Brief.model_validate(asked)
    build = Build(name=f"altered {seed}", brief=brief, circuit=layout.build(brief))
    for _ in range(STEPS):
        try:
            build = rnd.choice(TRIES)(build, rnd)
        except (BuildErrors, IndexError):
            continue  # that part cannot be had there
    return build


def strainer_on_top(build: Build) -> Build:
    """A strainer on the suction line between a hose up and a hose down."""
    data = build.model_dump(mode="json", exclude_none=True)
    next(n for n in data["circuit"]["nodes"] if n["id"] == "strainer out")["elevation_mm"] = 420
    elements = data["circuit"]["elements"]
    next(e for e in elements if e["id"] == "E1")["ports"] = {"start": "top", "end": "strainer out"}
    hose = next(e for e in elements if e["id"] == "H1")
    data["circuit"]["nodes"] += [{"id": "top", "elevation_mm": 420}]
    elements.append(hose | {"id": "H9", "ports": {"start": "pot", "end": "top"}})
    return validate(data)
