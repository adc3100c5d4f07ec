"""Acts that fit another part of the shelf, the nearest to the one fitted first."""

from collections.abc import Callable, Sequence
from functools import partial

from tall_heron.core.document.build import Build
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.figures import (
    Check,
    Displacement,
    Injectors,
    Loss,
    Pipe,
    PumpMap,
    Quadratic,
    Regulator,
    TankLevel,
)
from tall_heron.core.document.kinds import FILTERS, LINES, PIPES
from tall_heron.core.document.path import downstream, upstream
from tall_heron.core.editing.fields import fit
from tall_heron.core.editing.topology import second_pump
from tall_heron.core.fixing.act import Act, Acts, Candidates, Wrong
from tall_heron.core.shelf.shelf import ShelfPart, swaps_for
from tall_heron.core.shelf.suits import made_for, runs_on
from tall_heron.core.sizing.auto_size import proposed
from tall_heron.core.study.cases.cases import fuels_met
from tall_heron.core.study.lift import lifts

MOST = 10  # parts of the shelf that are tried
AT_LPH = 300.0  # what filters are compared at


def size_of(part: ShelfPart | Element) -> float:
    """How large a part is, in whatever tells its kind's sizes apart: bore, flow, capacity."""
    law = part.figures
    if isinstance(law, Injectors):
        return law.own_lph or law.rated_lph or 0.0
    if isinstance(law, PumpMap):
        return max(row[0] * row[1] for row in law.curves[-1].rows)
    if isinstance(law, Displacement):
        return law.cc_per_turn * law.ratio
    if isinstance(law, Quadratic):
        return -(law.a_kpa_per_lph * AT_LPH + law.b_kpa_per_lph2 * AT_LPH**2)
    if isinstance(law, Regulator):
        return law.wide_open_bore_mm
    if isinstance(law, TankLevel):
        return part.properties.capacity_l or 0.0
    if isinstance(law, Pipe | Loss | Check):
        return law.bore_mm
    return float(getattr(law, "bore_mm", getattr(law, "nozzle_mm", 0.0)))


def _fitted(build: Build, ids: Sequence[str], name: str, own: Sequence[ShelfPart]) -> Build:
    for tag in ids:
        build = fit(build, tag, name, own)
    return build


def fits(
    w: Wrong,
    ids: Sequence[str],
    way: int = 0,
    keep: Callable[[ShelfPart], bool] = lambda _: True,
    near: float | None = None,
) -> Acts:
    """Parts of the shelf in the place of some that are alike: larger ones (`way` 1), smaller ones
    (-1) or any, the nearest in size first (or those `near` a size), of its own family before
    others, those not made for the fuels left out.
    """
    first = w.build.circuit.element(ids[0]) if ids else None
    if first is None:
        return
    now, fuels = size_of(first), fuels_met(w.study.brief)
    options = [
        p
        for p in swaps_for(first, w.own)
        if _another(p, first)
        and keep(p)
        and all(made_for(p.properties, f) for f in fuels)
        and runs_on(p.figures, w.study.brief.voltage_v)
    ]
    sized = [p for p in options if not way or (size_of(p) - now) * way > 1e-9]
    if first.kind in FILTERS:
        sized = [p for p in sized if p.kind == first.kind]

    def order(p: ShelfPart) -> tuple[bool, bool, float, float, float]:
        other = first.kind in LINES and p.properties.family != first.properties.family
        unlike = (
            abs((p.properties.micron or 0.0) - (first.properties.micron or 0.0))
            if first.kind in FILTERS
            else 0.0
        )
        return (
            p.name != first.shelf,
            other,
            unlike,
            abs(size_of(p) - (now if near is None else near)),
            p.properties.price or 0.0,
        )

    for p in sorted(sized, key=order)[:MOST]:
        yield Act(
            f"fit {p.title} as {' and '.join(ids)}",
            partial(_fitted, ids=tuple(ids), name=p.name, own=w.own),
            tuple(ids),
        )


def _another(part: ShelfPart, than: Element) -> bool:
    """Whether a part is another than the one fitted: one of the same name whose figures somebody
    changed is, and a sensor of another sort is no sensor in its place.
    """
    if part.kind == "sensor" and part.properties.family != than.properties.family:
        return False
    return part.name != than.shelf or (part.figures, part.properties) != (
        than.figures,
        than.properties,
    )


def swap(way: int = 0, keep: Callable[[ShelfPart], bool] = lambda _: True) -> Candidates:
    """Another part for the one that is named."""
    return lambda w: fits(w, [w.part], way, keep)


def alike(w: Wrong) -> list[str]:
    """The named part and those of its kind beside it that are the same part."""
    e = w.element
    return (
        [x.id for x in w.build.circuit.of_kind(e.kind) if x.shelf == e.shelf]
        if e is not None
        else []
    )


def twins(way: int = 0, keep: Callable[[ShelfPart], bool] = lambda _: True) -> Candidates:
    """Another part for the one that is named and for those like it."""
    return lambda w: fits(w, alike(w), way, keep)


def pumps_alike(w: Wrong) -> list[str]:
    """The pumps that feed the engine and are the same part as the first of them."""
    feeding = w.study.feed_path.pumps
    return [p.id for p in feeding if p.shelf == feeding[0].shelf]


def beside(pump: str) -> Act:
    """Another pump like one, beside it."""
    return Act(
        f"set a second pump like {pump} beside it, with check valves and a Y",
        lambda build: second_pump(build, pump)[0],
        (pump,),
    )


def pumps(w: Wrong) -> Acts:
    """Larger pumps for those that feed the engine, then one more of them."""
    feeding = w.study.feed_path.pumps
    yield from fits(
        w, pumps_alike(w), 1, lambda p: p.properties.mount == feeding[0].properties.mount
    )
    if len(feeding) in (1, 2):
        yield beside(feeding[-1].id)


def lift_pumps(w: Wrong) -> Acts:
    """Larger pumps for those that fill the pot."""
    named = next((lift for lift in lifts(w.study) if any(p.id == w.part for p in lift.pumps)), None)
    if named is not None:
        yield from fits(
            w,
            [p.id for p in named.pumps],
            1,
            lambda p: p.properties.mount == named.pumps[0].properties.mount,
        )


def smaller_pumps(w: Wrong) -> Acts:
    """Smaller pumps for those that feed the engine."""
    yield from fits(
        w,
        pumps_alike(w),
        -1,
        lambda p: p.properties.mount == w.study.feed_path.pumps[0].properties.mount,
    )


def feed(w: Wrong) -> Acts:
    """Wider lines from the pumps to the engine: the one that takes most first."""
    pumped = {e.id for p in w.study.feed_path.pumps for e in downstream(w.build.circuit, p)}
    lines = [e for e in w.build.circuit.of_kind(*PIPES) if e.id in pumped and e.role == "feed"]
    for e in sorted(lines, key=lambda e: -abs(w.study.friction(w.study.peak, e.id)))[:2]:
        yield from fits(w, [e.id], 1)


def returns(w: Wrong) -> Acts:
    """What goes back: the part that takes most, then the lines, then the regulator's seat."""
    idle = w.study.solved["idle"].solution
    back = [e for r in w.study.feed_path.turned_back for e in (r, *downstream(w.build.circuit, r))]
    taking = sorted(
        (e for e in back if e.kind != "tank"),
        key=lambda e: (
            -abs(getattr(idle.links.get(e.id), "loss", 0.0) or 0.0) if idle.converged else 0.0
        ),
    )
    lines = [e.id for e in taking if e.kind in PIPES]
    for e in sorted(taking, key=lambda e: e.kind == "regulator")[:3]:
        yield from fits(w, [e.id], 1)
    if len(lines) > 1:
        yield from fits(
            w,
            [
                x
                for x in lines
                if (a := w.build.circuit.element(x))
                and (b := w.build.circuit.element(lines[0]))
                and a.shelf == b.shelf
            ],
            1,
        )


def suction(w: Wrong) -> Acts:
    """What lies before the pump: strainers and lines that take most, wider."""
    e = w.element
    if e is None:
        return
    before = [x for x in upstream(w.build.circuit, e) if x.kind in (*PIPES, *FILTERS)]
    for x in sorted(before, key=lambda x: -abs(w.study.friction(w.study.peak, x.id)))[:2]:
        yield from fits(w, [x.id], 1)


def lower_need(w: Wrong) -> Acts:
    """A pump that asks less of its inlet."""
    yield from fits(
        w,
        alike(w),
        0,
        lambda p: (
            (p.properties.suction_need_kpa or 0.0)
            < ((w.element.properties.suction_need_kpa if w.element else None) or 1e3)
        ),
    )


def all_sizes(w: Wrong) -> Acts:
    """Every size anew, as Size would propose them."""
    options = proposed(w.build, own=w.own)
    before = {e.id: e for e in w.build.circuit.elements}
    new = [
        e
        for e in options.build.circuit.elements
        if e.id in before and before[e.id].shelf != e.shelf
    ]
    if new:
        fitted_words = [f"{e.title} as {e.id}" for e in new]
        more = f" and {len(fitted_words) - 4} more parts" if len(fitted_words) > 5 else ""
        shown = fitted_words[:4] if more else fitted_words
        words = (
            f"fit {', '.join(shown)}{more}"
            if more or len(shown) < 2
            else f"fit {', '.join(shown[:-1])} and {shown[-1]}"
        )
        yield Act(words, lambda _: options.build, tuple(e.id for e in new))
