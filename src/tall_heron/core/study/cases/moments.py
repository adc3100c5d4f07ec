"""Every moment a build is looked at: the cases of the brief, those that follow from the build, and
the builder's own, each solved.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Any

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.base.constants import CELSIUS, GRAVITY
from tall_heron.core.base.units import show
from tall_heron.core.document.acceleration import BodyAcceleration, accelerated
from tall_heron.core.document.figures import Displacement
from tall_heron.core.document.kinds import FILTERS
from tall_heron.core.document.own_case import OwnCase
from tall_heron.core.document.point import Point
from tall_heron.core.physics.suction import standard_atmosphere
from tall_heron.core.routing.outline import leans_along
from tall_heron.core.study.cases.cases import Case, cells_of
from tall_heron.core.study.cases.phases import CRANKING, Phase, phase_of
from tall_heron.core.study.demand import fuel_demand
from tall_heron.core.study.derived import derived
from tall_heron.core.study.study import Solved, Study
from tall_heron.core.study.what_if import Change, Off, make_what_if, without_reference

CRUISE_SPEED = 0.6  # of the speed at peak, common practice
JUST = 1e-3  # of a trigger, how close to it a stage is looked at on either side
LEVEL = BodyAcceleration()
OWN = "own "  # how the keys of the builder's own begin


@dataclass(frozen=True)
class Moment:
    """A case, what it is in words, what is changed in the circuit, how it leans, and whether it is
    the builder's `own`.
    """

    case: Case
    says: str
    changes: tuple[Change, ...] = ()
    acceleration: BodyAcceleration = LEVEL
    own: bool = False

    @property
    def phase(self) -> Phase:
        """What the engine does, which says which limits count."""
        return phase_of(self.case.key, self.case.kind, bool(self.acceleration))


@dataclass(frozen=True)
class SolvedMoment:
    """A moment with the study of it: `study.solved` holds it under its key, and the engine is that
    of its circuit.
    """

    moment: Moment
    study: Study

    @property
    def solved(self) -> Solved:
        """Its solution."""
        return self.study.solved[self.moment.case.key]


def moments(study: Study) -> list[Moment]:
    """The application's own cases of a build, then the builder's; none twice."""
    every = [*_of_brief(study), *_of_build(study), *(_own(study, c) for c in study.build.cases)]
    return list({m.case.key: m for m in every}.values())


def solved_moments(study: Study, hidden: bool = False) -> list[SolvedMoment]:
    """Every moment solved, those that the builder has hidden only where asked."""
    return [
        x for key, x in _moments(study).items() if hidden or key not in study.build.hidden_cases
    ]


def look(study: Study, moment: Moment) -> SolvedMoment:
    """One moment, solved once for a study."""
    return _look.under(study, (moment.case.key,), lambda: _look.make(study, moment))


@derived("brief", "hydraulics", "wiring", "titles", "cases", "space")
def _moments(study: Study) -> dict[str, SolvedMoment]:
    return {m.case.key: look(study, m) for m in moments(study)}


@derived("brief", "hydraulics", "wiring", "titles", "cases", "space")
def _look(study: Study, moment: Moment) -> SolvedMoment:
    case, what_if = moment.case, study.what_if
    if case.key in study.solved and not moment.changes and not moment.acceleration:
        return SolvedMoment(moment, study)
    if moment.acceleration:
        felt = accelerated(study.build.circuit, moment.acceleration, study.brief.use == "flight")
        what_if = (
            make_what_if(felt, what_if.harness)
            if felt.nodes != study.build.circuit.nodes
            else what_if
        )  # a corner, where nobody says what lies to the right
    if moment.changes:
        what_if = what_if.changed(*moment.changes)
    celsius, meters = case.point.temperature_c, study.brief.altitude_m
    solved = study.solved | {case.key: Solved(case, what_if.at(case.point, case.demand))}
    brief = study.brief.model_copy(update={"fuel_temperature_c": celsius, "altitude_m": meters})
    return SolvedMoment(
        moment,
        replace(
            study,
            brief=brief,
            what_if=what_if,
            cases=study.cases | {case.key: case},
            solved=solved,
            answers={},
        ),
    )


def _of_brief(study: Study) -> Iterator[Moment]:
    for case in study.cases.values():
        where = "source" if study.what_if.harness is not None else "pumps"
        yield Moment(
            case,
            f"{'idling' if case.kind == 'idle' else 'full power'} on {case.fuel.name}, {case.point.voltage_at('') or 0:.1f} V at the {where}",
        )


def _changed(
    study: Study,
    key: str,
    title: str,
    says: str,
    point: dict[str, Any] | None = None,
    share: float = 1.0,
    changes: tuple[Change, ...] = (),
    acceleration: BodyAcceleration = LEVEL,
    margin: float | None = 0.0,
) -> Moment:
    """A moment that is other than the peak in its point, its demand, its circuit or its lean."""
    peak = study.cases["peak"]
    case = replace(
        peak,
        key=key,
        title=title,
        point=peak.point.model_copy(update={"name": key[:80]} | (point or {})),
        demand=peak.demand * share,
        margin=margin,
    )
    return Moment(case, says, changes, acceleration)


def _hot_and_high(study: Study) -> Moment:
    brief = study.brief
    meters = min(
        max(
            brief.altitude_m, house_figure("high_air_m" if brief.use == "flight" else "high_road_m")
        ),
        10000.0,
    )
    celsius = brief.fuel_temperature_c
    fahrenheit, feet = show(celsius + CELSIUS, "temperature", "f"), show(meters, "length", "ft")
    words = (
        f"at peak, {celsius:.0f} °C ({fahrenheit:.0f} °F) in the tank"
        f" at {meters:,.0f} m ({feet:,.0f} ft)"
    )
    return _changed(
        study,
        "hot and high",
        "Hot fuel at altitude",
        words,
        {"atmosphere_kpa": standard_atmosphere(meters) / 1000},
    )


def _of_build(study: Study) -> Iterator[Moment]:
    brief, circuit = study.brief, study.build.circuit
    peak, flies = study.cases["peak"], brief.use == "flight"
    share = house_figure("cruise_share_air" if flies else "cruise_share_road")
    resting = [e.id for e in circuit.elements if e.stage is not None]
    easy = {
        "manifold_kpa": min(peak.point.manifold_kpa, 0.0),
        "engine_rpm": (peak.point.engine_rpm or 0.0) * CRUISE_SPEED,
        "off": [*peak.point.off, *resting],
    }
    yield _changed(
        study, "cruise", "Cruise", f"{100 * share:.0f} % of the demand, no boost", easy, share
    )
    for e in circuit.of_kind(*FILTERS):
        times = house_figure("half_clogged")
        yield _changed(
            study,
            f"{e.id} clogged",
            f"{e.id} half clogged",
            f"at peak, {e.id} drops {times:g} times its clean pressure drop",
            {"clogging": {e.id: times}},
        )
    yield _hot_and_high(study)
    off = tuple(change for e in circuit.elements if (change := without_reference(e)) is not None)
    if brief.boosted and off:
        yield _changed(
            study,
            "reference off",
            "Reference hose off",
            f"at peak, {off[0].element.id} feels air instead of boost",
            changes=off,
        )
    yield from _stages(study)
    yield from _with_the_engine(study)
    if not flies:
        hard = house_figure("launch_drag_g" if brief.use == "drag" else "launch_street_g")
        yield _changed(
            study,
            "launch",
            "Launch",
            f"at peak, {hard:g} g ahead",
            acceleration=BodyAcceleration(hard * GRAVITY),
        )
        brake = house_figure("braking_g")
        shut = {
            "manifold_kpa": study.cases["idle"].point.manifold_kpa,
            "off": [*peak.point.off, *resting],
        }
        yield _changed(
            study,
            "braking",
            "Braking",
            f"off the throttle, {brake:g} g",
            shut,
            house_figure("idle_burn_share"),
            acceleration=BodyAcceleration(-brake * GRAVITY),
            margin=None,
        )
        if leans_along(study.build.space, brief):
            return
        turn = house_figure("corner_g")
        for side, sign in (
            (("corner left", 1), ("corner right", -1)) if _has_sides(study) else (("corner", 1),)
        ):
            yield _changed(
                study,
                side,
                f"Hard {side}",
                f"at peak, {turn:g} g sideways",
                acceleration=BodyAcceleration(left=sign * turn * GRAVITY),
            )
        return
    up, down = house_figure("climb_deg"), house_figure("descent_deg")
    yield _changed(
        study,
        "climb",
        "Climb",
        f"at peak, nose {up:g}° up",
        acceleration=BodyAcceleration(pitch=math.radians(up)),
    )
    on_cruise = {"off": easy["off"]}
    yield _changed(
        study,
        "descent",
        "Descent",
        f"cruise demand, nose {down:g}° down",
        on_cruise,
        share,
        acceleration=BodyAcceleration(pitch=math.radians(-down)),
    )
    slip = house_figure("slip_deg")
    for side, sign in (("right", 1), ("left", -1)):
        acceleration = BodyAcceleration(pitch=math.radians(-down), bank=sign * math.radians(slip))
        yield _changed(
            study,
            f"slip {side}",
            f"Slip, {side} wing down",
            f"cruise demand, nose {down:g}° down, banked {slip:g}°",
            on_cruise,
            share,
            acceleration=acceleration,
        )
    pumps = [p.id for p in study.feed_path.pumps]
    for pump in pumps if len(pumps) > 1 else ():
        others = tuple(Off(p) for p in pumps if p != pump)
        yield _changed(
            study,
            f"{pump} alone",
            f"{pump} alone",
            f"at peak, {' and '.join(p for p in pumps if p != pump)} stopped",
            changes=others,
        )


def _with_the_engine(study: Study) -> Iterator[Moment]:
    """Where a pump that the engine turns gives least, and where it gives most."""
    peak = study.cases["peak"]
    rpm, driven = peak.point.engine_rpm, study.build.circuit.of_kind("pump")
    if not rpm or not any(isinstance(e.figures, Displacement) for e in driven):
        return
    crank, over = house_figure("crank_rpm"), 1 + house_figure("over_rev")
    volts = {"voltage_v": cells_of(study.brief) * house_figure("crank_volts")}
    yield _changed(
        study,
        CRANKING,
        "Cranking",
        f"{crank:g} rpm on the starter, {volts['voltage_v']:g} V, what idling burns",
        {"engine_rpm": crank, "manifold_kpa": 0.0, "off": study.cases["idle"].point.off} | volts,
        house_figure("idle_burn_share"),
        margin=None,
    )
    yield _changed(
        study,
        "over-rev",
        "Over-rev",
        f"{over * rpm:,.0f} rpm, off the throttle: the pump turns {100 * (over - 1):g} % faster and all of it goes back",
        {
            "engine_rpm": over * rpm,
            "manifold_kpa": study.cases["idle"].point.manifold_kpa,
        },
        house_figure("idle_burn_share"),
        margin=None,
    )


def _has_sides(study: Study) -> bool:
    """Whether anything says where it lies from left to right."""
    return any(n.right_mm for n in study.build.circuit.nodes) or any(
        t.properties.inside is not None for t in study.build.circuit.of_kind("tank")
    )


def _stages(study: Study) -> Iterator[Moment]:
    """Just before and just after each stage comes on."""
    peak, brief = study.cases["peak"], study.brief
    for e in study.build.circuit.of_kind("pump"):
        if e.stage is None or e.stage.by == "switch":
            continue
        for side, times in (("before", 1 - JUST), ("after", 1 + JUST)):
            at = e.stage.at * times
            point: dict[str, Any] = {}
            if e.stage.by == "boost":
                share = (peak.point.atmosphere_kpa + at) / (
                    peak.point.atmosphere_kpa + brief.boost_kpa
                )
                point = {"manifold_kpa": at}
            elif e.stage.by == "speed":
                share = at / peak.point.engine_rpm if peak.point.engine_rpm else 1.0
                point = {"engine_rpm": at}
            else:
                share = 1.0
            if not 0 < share <= 1:
                continue
            off = [x for x in peak.point.off if x != e.id] + ([e.id] if side == "before" else [])
            yield _changed(
                study,
                f"{e.id} {side}",
                f"Just {side} {e.id}",
                f"{e.id} {'still off' if side == 'before' else 'just on'}, {100 * share:.0f} % of the demand",
                point | {"off": off},
                share,
            )


def _own(study: Study, own: OwnCase) -> Moment:
    """The builder's own case; what it names of a circuit that has changed since is left out."""
    brief, peak = study.brief, study.cases["peak"]
    there = {e.id for e in study.build.circuit.elements}
    fuel, demand = peak.fuel, peak.demand
    if own.fuel is not None:
        what = fuel_demand(brief.model_copy(update={"fuel": own.fuel}))
        fuel, demand = what.fuel, what.volume_flow
    celsius = (
        own.fuel_temperature_c if own.fuel_temperature_c is not None else brief.fuel_temperature_c
    )
    changes: dict[str, Any] = {
        "temperature_c": celsius,
        "clogging": {k: x for k, x in own.clogging.items() if k in there},
        "off": [*peak.point.off, *(x for x in own.off if x in there)],
        "position": peak.point.position | {k: x for k, x in own.position.items() if k in there},
        "level_mm": {k: x for k, x in own.level_mm.items() if k in there},
    }
    if own.altitude_m is not None:
        changes["atmosphere_kpa"] = standard_atmosphere(own.altitude_m) / 1000
    for name in ("manifold_kpa", "engine_rpm", "voltage_v"):
        if getattr(own, name) is not None:
            changes[name] = getattr(own, name)
    if own.fuel is not None:
        plain = fuel.family != "own"
        changes |= {"fuel": fuel.name if plain else None} | (
            {"density_kg_m3": None, "viscosity_mpa_s": None} if plain else {}
        )
    point = Point.model_validate(
        peak.point.model_dump() | changes | {"name": (OWN + own.name)[:80]}
    )
    key = OWN + own.name
    case = replace(
        peak,
        key=key,
        title=own.name,
        point=point,
        demand=demand * own.power_share,
        fuel=fuel,
        margin=0.0 if own.power_share > 0 else None,
    )
    return Moment(case, _words(own), (), _acceleration(own), own=True)


def _acceleration(own: OwnCase) -> BodyAcceleration:
    return BodyAcceleration(
        own.ahead_g * GRAVITY,
        math.radians(own.pitch_deg),
        own.left_g * GRAVITY,
        math.radians(own.bank_deg),
    )


def _words(own: OwnCase) -> str:
    """What an own case changes, in a line."""
    parts = [f"{100 * own.power_share:.0f} % of the demand"]
    parts += [f"on {own.fuel}"] if own.fuel else []
    for value, words in (
        (own.fuel_temperature_c, "{:.0f} °C"),
        (own.altitude_m, "{:,.0f} m up"),
        (own.voltage_v, "{:g} V"),
        (own.manifold_kpa, "{:g} kPa manifold"),
        (own.engine_rpm, "{:,.0f} rpm"),
    ):
        parts += [words.format(value)] if value is not None else []
    parts += (
        [f"{k} × {x:g}" for k, x in own.clogging.items()]
        + [f"{x} off" for x in own.off]
        + [f"{k} {x}" for k, x in own.position.items()]
    )
    parts += [f"{own.ahead_g:+g} g ahead"] if own.ahead_g else []
    parts += [f"{own.left_g:+g} g to the left"] if own.left_g else []
    parts += [f"nose {own.pitch_deg:+g}°"] if own.pitch_deg else []
    parts += [f"banked {own.bank_deg:+g}°"] if own.bank_deg else []
    return ", ".join(parts)
