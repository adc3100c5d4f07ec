"""Acts that turn, move, add, take out or type."""

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.document.build import Build
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.figures import PumpMap
from tall_heron.core.document.kinds import FILTERS, PIPES
from tall_heron.core.document.mounts import IN_TANK, hung_pumps
from tall_heron.core.document.path import reach, upstream, ways
from tall_heron.core.document.tank_shape import FILLED
from tall_heron.core.editing.additions import ADDITIONS
from tall_heron.core.editing.connectors import dash_number, family_of, sizes_of
from tall_heron.core.editing.fields import fit, part_of, set_end
from tall_heron.core.editing.inside import with_level_gauge
from tall_heron.core.editing.measured import with_element
from tall_heron.core.editing.topology import (
    add_tap,
    insert,
    rejoin,
    selector_for,
    set_height,
    take_out,
    turn_round,
)
from tall_heron.core.fixing.act import Act, Acts, Candidates, Wrong
from tall_heron.core.fixing.by_size import beside, fits, pumps_alike, size_of
from tall_heron.core.physics.fuel import AVGAS
from tall_heron.core.rules.finding import FindingFigure
from tall_heron.core.shelf.shelf import parts
from tall_heron.core.shelf.suits import SPOKEN_OF, spoken_of
from tall_heron.core.study.cases.cases import fuels_met

USUAL_DASH = 8  # of a part whose size nobody says


def turn(w: Wrong) -> Acts:
    """The other way round; a filter with a new element."""
    e = w.element
    if e is not None:
        new = ", with a new element" if e.kind in FILTERS else ""
        yield Act(f"turn {e.id} round{new}", lambda build: turn_round(build, e.id), (e.id,))


def out(w: Wrong) -> Acts:
    """Taken out, what it parted joined up."""
    yield Act(f"take {w.part} out", lambda build: take_out(build, w.part), (w.part,))


def _size_like(build: Build, e: Element, stem: str) -> str | None:
    """The part of a family of names whose bore is nearest to that of the lines at an element."""
    nodes = set(e.ports.values())
    line = next(
        (x for x in build.circuit.of_kind(*PIPES) if set(x.ports.values()) & nodes), None
    ) or max(
        (x for x in build.circuit.of_kind(*PIPES) if x.role == e.role and x.ports),
        key=lambda x: _dash(x.properties.dash),
        default=e,
    )
    options = [p for p in parts().values() if p.name.startswith(stem)]
    return (
        min(  # type: ignore[union-attr]
            options,
            key=lambda p: abs(_dash(p.properties.dash) - _dash(line.properties.dash)),
            default=None,
        ).name
        if options
        else None
    )


def _dash(text: str) -> int:
    return dash_number(text) or USUAL_DASH


def _put(w: Wrong, at: str, stem: str, word: str, before: bool = False) -> Acts:
    e = w.build.circuit.element(at)
    name = _size_like(w.build, e, stem) if e is not None else None
    if e is not None and name is not None:
        title = parts()[name].title
        yield Act(
            f"put {word} ({title}) {'before' if before else 'behind'} {at}",
            lambda build: insert(build, at, name, before)[0],
            (at,),
        )


def strain(w: Wrong) -> Acts:
    """A strainer before each pump that has none."""
    e = w.element
    if e is not None:
        hangs = e.properties.mount in IN_TANK
        yield from _put(w, e.id, "alder-sock-100" if hangs else "sedge-100", "a pre-filter", True)


def fine(w: Wrong) -> Acts:
    """A fine filter behind the pumps, before they part."""
    alcohol = w.study.brief.fuel_of(w.study.brief.fuel).ethanol > 0.15
    hose = next(
        (
            e.id
            for e in w.build.circuit.of_kind(*PIPES)
            if e.role == "feed" and e.ports and e.ports["start"] in w.study.feed_path.nodes
        ),
        w.part,
    )
    for at in dict.fromkeys((hose, w.part)):
        yield from _put(w, at, "reedmace-10g" if alcohol else "reedmace-10", "a fine filter")


def check_behind(w: Wrong) -> Acts:
    """A check valve of its own."""
    yield from _put(w, w.part, "rill-", "a check valve")


def damp(w: Wrong) -> Acts:
    """A damper in the line to the rail."""
    yield from _put(w, w.part, "reedbed-damper-", "a pulse damper", True)


def hang(w: Wrong) -> Acts:
    """The hanger that it hangs from."""
    yield from _put(w, w.part, "hanger-", "a pump hanger")


def shut_off(w: Wrong) -> Acts:
    """A shut-off in the first line from the tank."""
    for e in w.build.circuit.of_kind(*PIPES):
        if e.ports:
            yield from _put(w, e.id, "shutoff-", "a shut-off")
            return


def gascolator(w: Wrong) -> Acts:
    """A gascolator before the pumps, or before the carburetor that gravity feeds."""
    pump = next(iter(w.study.feed_path.pumps), None)
    at = pump.id if pump is not None else next((e.id for e in w.study.feed_path.burners), "")
    if at:
        yield Act(
            f"put a gascolator before {at}",
            lambda build: insert(build, at, "withy-85", True)[0],
            (at,),
        )


def suction_hose(w: Wrong) -> Acts:
    """A hose from the tank to a pump that stands outside."""
    yield from _put(w, w.part, "ptfe-", "a suction hose", True)


def vented(w: Wrong) -> Acts:
    """A vent from the top of the tank, on the road with its roll-over valve."""
    flies = w.study.brief.use == "flight"
    yield Act(
        f"run a vent line from the top of {w.part}{'' if flies else ', with a roll-over valve'}",
        lambda build: ADDITIONS["vent"].add(build, w.part)[0],
        (w.part,),
    )


def roll_over(w: Wrong) -> Acts:
    """The valve in the vent there is."""
    yield Act(
        "fit a roll-over valve at the tank",
        lambda build: ADDITIONS["roll-over"].add(build, w.part)[0],
    )


def line_of(key: str, word: str) -> Candidates:
    """A line that carries no fuel of the circuit."""

    def acts(w: Wrong) -> Acts:
        at = w.part or next((e.id for e in w.build.circuit.of_kind("tank")), "")
        yield Act(f"add {word} at {at}", lambda build: ADDITIONS[key].add(build, at)[0], (at,))

    return acts


def relieve(w: Wrong) -> Acts:
    """A valve that lets out what warms, or a small relief to the tank."""
    e = w.element
    shut = next(
        (
            x
            for x in w.build.circuit.of_kind("valve", "selector", "crossover")
            if x.id in w.finding.title
        ),
        None,
    )
    if shut is not None:
        yield from fits(w, [shut.id], 0, lambda p: p.properties.relieves is True)
    for at in dict.fromkeys(
        x
        for x in (
            e.id if e is not None else "",
            *(y.id for y in w.build.circuit.of_kind(*PIPES) if y.id in w.finding.why),
        )
        if x
    ):
        yield Act(
            f"lead a thermal relief from behind {at} to the tank",
            lambda build, at=at: ADDITIONS["thermal relief"].add(build, at)[0],  # type: ignore[misc]
            (at,),
        )


def way_back(w: Wrong) -> Acts:
    """A bypass regulator with its return, at the end of the rail."""
    burner = next(iter(w.study.feed_path.burners), None)
    at = next(
        (
            e.id
            for e in w.build.circuit.of_kind("rail")
            if burner is not None and burner.ports["start"] in e.ports.values()
        ),
        burner.id if burner is not None else "",
    )
    for e in dict.fromkeys((at, w.part)):
        yield Act(
            f"put a bypass regulator with its return behind {e}",
            lambda build, e=e: ADDITIONS["return"].add(build, e)[0],  # type: ignore[misc]
            (e,),
        )


def second(w: Wrong) -> Acts:
    """Another pump beside."""
    pump = next(iter(w.study.feed_path.pumps), None)
    if pump is not None:
        yield beside(pump.id)


def lower(w: Wrong) -> Acts:
    """A pump at the height of its tank's outlet, or a little under it."""
    e = w.element
    if e is None:
        return
    heights = {n.id: n.elevation_mm for n in w.build.circuit.nodes}
    tanks = [
        t
        for t in w.build.circuit.of_kind("tank")
        if t.ports["outlet"]
        in {n for x in upstream(w.build.circuit, e) for n in x.ports.values()}
        | set(e.ports.values())
    ]
    start = ways(e)[0][0]
    if tanks:
        floor, port = (
            heights[tanks[0].ports["outlet"]],
            next(p for p, n in e.ports.items() if n == start),
        )
        yield Act(
            f"mount {e.id} level with the outlet of {tanks[0].id}",
            lambda build: set_height(build, e.id, port, floor),
            (e.id,),
        )


def under_the_line(w: Wrong) -> Acts:
    """A filter as low as what follows it."""
    e = w.element
    if e is None:
        return
    heights = {n.id: n.elevation_mm for n in w.build.circuit.nodes}
    tanks = [heights[t.ports["outlet"]] for t in w.build.circuit.of_kind("tank")]
    low = min(
        [
            *tanks,
            *(
                heights[ways(p)[0][0]]
                for p in w.build.circuit.of_kind("pump")
                if ways(p)[0][0] not in e.ports.values()
            ),
        ]
    )

    def make(build: Build) -> Build:
        for port in e.ports:
            build = set_height(build, e.id, port, low)
        return build

    yield Act(
        f"mount {e.id} below the line, {{low}} over the datum",
        make,
        (e.id,),
        {"low": FindingFigure(low / 1000, "length")},
    )


def straight(w: Wrong) -> Acts:
    """Straight or gently bent ends."""
    for side, angle in (("a", 0), ("b", 0), ("a", 45), ("b", 45)):
        word = "a straight" if angle == 0 else "a 45°"
        yield Act(
            f"fit {word} end at {side.upper()} of {w.part}",
            lambda build, side=side, angle=angle: set_end(build, w.part, side, angle),  # type: ignore[misc]
            (w.part,),
        )
    yield Act(
        f"fit straight ends on {w.part}",
        lambda build: set_end(set_end(build, w.part, "a", 0), w.part, "b", 0),
        (w.part,),
    )


def own_ends(w: Wrong) -> Acts:
    """The ends of its own family and size."""
    e = w.element
    if e is not None and e.shelf:
        yield Act(
            f"fit {e.properties.family} ends of its own size on {e.id}",
            lambda build: fit(build, e.id, e.shelf or ""),
            (e.id,),
        )


def to_the_tank(w: Wrong) -> Acts:
    """The return to the tank that is drawn from."""
    e = w.element
    if e is None:
        return
    outlets = {t.ports["outlet"]: t for t in w.build.circuit.of_kind("tank")}
    feeding = [
        n
        for p in w.study.feed_path.pumps
        for x in (p, *upstream(w.build.circuit, p))
        for n in x.ports.values()
        if n in outlets
    ]
    back = (
        [
            x
            for x in reach(w.build.circuit, ways(e)[0][1])
            if any(end in outlets for _, end in ways(x))
        ]
        if e.kind == "regulator"
        else [e]
    )
    for node in dict.fromkeys(feeding or list(outlets)):
        for x in back[:1] or [e]:
            port = next(p for p, n in x.ports.items() if n == ways(x)[0][1])
            yield Act(
                f"lead {x.id} to {outlets[node].id}",
                lambda build, x=x, port=port, node=node: rejoin(build, x.id, port, node),  # type: ignore[misc]
                (x.id,),
            )


def drop_tube(w: Wrong) -> Acts:
    """An inlet with a drop tube, of the same size or the nearest."""
    e = w.element
    if e is None:
        return
    if e.kind == "fitting":
        yield from fits(w, [e.id], 0, lambda p: p.properties.drop_tube is True)
    yield from _put(w, e.id, "tank-inlet-", "a tank inlet with a drop tube")


def gauge(w: Wrong) -> Acts:
    """A gauge at the rail, of the range that is read there."""
    name = "gauge-1bar" if w.study.brief.carbureted else "gauge-10bar"
    at = w.part
    yield Act(
        f"tap {at} for a {parts()[name].title}", lambda build: add_tap(build, at, name)[0], (at,)
    )


def senses(w: Wrong) -> Acts:
    """A pressure sensor behind a pump, a level gauge in each tank: what shows a failure that
    nothing shows.
    """
    e = w.element
    tanks = [t.id for t in w.build.circuit.of_kind("tank") if not t.properties.level_gauge]
    pumps = [p.id for p in w.study.feed_path.pumps]

    def gauged(build: Build) -> Build:
        circuit = build.circuit
        for t in tanks:
            circuit = with_level_gauge(circuit, t, True)
        return build.model_copy(update={"circuit": circuit})

    def sensed(build: Build) -> Build:
        for p in pumps:
            build = add_tap(build, p, "sender-10bar")[0]
        return build

    if e is not None and e.kind == "pump":
        yield Act(
            f"put a pressure sensor between {' and '.join(pumps)} and {'its check valve' if len(pumps) == 1 else 'their check valves'}",
            sensed,
            tuple(pumps),
        )
    if tanks:
        yield Act(f"fit a level gauge in {' and '.join(tanks)}", gauged, tuple(tanks))
    if tanks and pumps:
        yield Act(
            f"fit a level gauge in {' and '.join(tanks)}, and a pressure sensor behind {' and '.join(pumps)}",
            lambda build: sensed(gauged(build)),
            (*tanks, *pumps),
        )


def low_pressure(w: Wrong) -> Acts:
    """Pumps that press no needle from its seat, or a regulator that holds them off."""
    most = house_figure("needle_most") / 1000
    same = pumps_alike(w)
    yield from fits(
        w,
        same,
        0,
        lambda p: isinstance(p.figures, PumpMap) and p.figures.curves[-1].rows[0][1] <= most,
    )
    burner = next(iter(w.study.feed_path.burners), None)
    if burner is not None:
        for name in ("grebe-low-deadhead", "heronsbill-deadhead-8"):
            if name in parts():
                words = f"put a dead-head regulator ({parts()[name].title}) before {burner.id}"
                yield Act(
                    words,
                    lambda build, name=name: insert(build, burner.id, name, True)[0],  # type: ignore[misc]
                    (burner.id,),
                )
    for p in w.build.circuit.of_kind("pump"):
        if p.id not in same or len(same) > 1:
            yield Act(f"take {p.id} out", lambda build, p=p: take_out(build, p.id), (p.id,))  # type: ignore[misc]


def jet_suction(w: Wrong) -> Acts:
    """A wider hose to the suction of a jet pump."""
    e = w.element
    if e is not None and e.kind == "jet":
        for x in reach(w.build.circuit, e.ports["suction"], backward=True):
            if x.kind in PIPES:
                yield from fits(w, [x.id], 1)


def tank(w: Wrong) -> Acts:
    """Another tank, the nearest in size that does."""
    e = w.element
    if e is None:
        return
    pot = e.properties.family in FILLED
    holds = house_figure("tank_usual_l") if pot else size_of(e)
    yield from fits(
        w,
        [e.id],
        0,
        lambda p: (
            (p.properties.capacity_l or 0.0) > 0.7 * holds and p.properties.family not in FILLED
        ),
        holds,
    )


def deeper_tank(w: Wrong) -> Acts:
    """A shorter pump of its mount, or a deeper tank for it to hang in."""
    hung = next((h for h in hung_pumps(w.build.circuit) if h.pump.id == w.part), None)
    if hung is None or hung.tank is None:
        return
    long = hung.pump.properties.long_mm or 0.0
    yield from fits(
        w,
        [w.part],
        0,
        lambda p: (
            p.properties.mount == hung.pump.properties.mount
            and (p.properties.long_mm or long) < long
        ),
    )
    yield from fits(
        w,
        [hung.tank.id],
        0,
        lambda p: (p.properties.high_mm or 0.0) > long and p.properties.family not in FILLED,
    )


def select(w: Wrong) -> Acts:
    """A selector instead of the tee."""
    yield Act(
        f"fit a selector, left, right and off, instead of {w.part}",
        lambda build: selector_for(build, w.part),
        (w.part,),
    )


def change_over(w: Wrong) -> Acts:
    """Coarse before the pump, fine after it."""

    def make(build: Build) -> Build:
        before = part_of(build, w.part)
        for f in build.circuit.of_kind(*FILTERS):
            if (
                f.id != before.id
                and f.properties.micron
                and before.properties.micron
                and f.properties.micron > before.properties.micron
            ):
                return fit(fit(build, before.id, _nearest(before, 100.0)), f.id, _nearest(f, 10.0))
        raise BuildErrors([])

    yield Act(f"fit 100 µm as {w.part}, and 10 µm behind the pump", make, (w.part,))


def _nearest(e: Element, micron: float) -> str:
    """The filter of a fineness that is nearest in size to one."""
    options = [
        p
        for p in parts().values()
        if p.kind in FILTERS
        and p.properties.micron == micron
        and p.properties.mount != "gascolator"
        and "sock" not in p.name
    ]
    return min(
        options,
        key=lambda p: (p.properties.dash != e.properties.dash, abs(size_of(p) - size_of(e))),
    ).name


def of_its_size(w: Wrong) -> Acts:
    """A fitting of the size of the line it stands in."""
    e = w.element
    if e is None:
        return
    yield from fits(w, [e.id], 1)
    for p in sizes_of(e.kind, family_of(e)):
        yield Act(f"fit {p.title} as {e.id}", lambda build, p=p: fit(build, e.id, p.name), (e.id,))  # type: ignore[misc]


def maker_allows(w: Wrong) -> Acts:
    """What its maker's sheet says, once somebody has looked."""
    e = w.element
    fuel = next(
        (f for f in fuels_met(w.study.brief) if e is not None and not spoken_of(e.properties, f)),
        None,
    )
    if e is not None and fuel is not None:
        allowed = (
            {"methanol": True}
            if fuel.methanol
            else {"avgas": True}
            if fuel.family == AVGAS
            else {"ethanol_max_percent": 100 * fuel.ethanol}
            if fuel.ethanol > SPOKEN_OF
            else {"gasoline": True}
        )
        more = e.properties.model_copy(update=allowed)
        yield Act(
            f"confirm that the sheet of {e.id} allows {fuel.name}, once you have looked",
            lambda build: with_element(build, e.model_copy(update={"properties": more})),
            (e.id,),
        )
