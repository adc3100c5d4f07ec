"""The ladder (docs/model.md, Ladder): the whole circuit's ceiling, and under it, part by part, its
own ceiling and what it costs.

A part's own ceiling is the largest power with that part as it is, all other losses and limits
waived and the pumps as they are; pumps have nothing in their way. It is
shown where the part is what ends it. What a part costs is how much the whole circuit's ceiling
rises when it takes nothing.
"""

import math
from dataclasses import dataclass, replace
from typing import Literal

from tall_heron.core.base.arithmetic import Why, format_number
from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.base.constants import HORSEPOWER, LPH
from tall_heron.core.base.roots import expanding_root
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.figures import Injectors, PumpMap, Regulator
from tall_heron.core.document.path import upstream
from tall_heron.core.hydraulics.compile import injectors_full_flow
from tall_heron.core.hydraulics.laws import INFINITE, Law, PumpRise
from tall_heron.core.hydraulics.results import Solution
from tall_heron.core.physics.fittings import quadratic_coefficient
from tall_heron.core.rules.rule import rail_word
from tall_heron.core.rules.words import does, named
from tall_heron.core.sizing.ceiling import (
    CLOSE,
    LEAST,
    MOST,
    Ceiling,
    Need,
    headroom_required,
    make_ceiling,
    make_ceiling_in_cases,
)
from tall_heron.core.study.cases.injector_duty import dead_share
from tall_heron.core.study.demand import allowance
from tall_heron.core.study.derived import derived
from tall_heron.core.study.study import Study
from tall_heron.core.study.what_if import Lossless, WhatIf

Verdict = Literal["enough", "marginal", "short"]
TAKES = ("pipe", "quadratic", "loss", "check", "tee")  # laws of parts that take pressure
MOST_LOOKED_AT = 30  # parts whose cost is looked for, those that take most
PLAYS = 1e-3  # of the pumps' own ceiling: a part that lowers it by less is not what ends it
TOLERANCE = {
    "filter": "filter_tolerance",
    "strainer": "filter_tolerance",
    "hose": "hose_loss_tolerance",
    "line": "hose_loss_tolerance",
}


@dataclass(frozen=True)
class LadderRow:
    """One row: its own `ceiling` [W] with the `band` that the tolerance of its figures leaves (None
    is no limit up to ten times the power wanted, 0.0 is no power at all), and what it `costs` the
    whole circuit [W] (None for what takes no pressure). `kind` is whole, cases, pumps, gravity,
    suction, regulator, rating, injectors or needles, or the kind of an element that takes pressure.
    """

    parts: tuple[str, ...]
    kind: str
    title: str
    ceiling: float | None
    band: tuple[float | None, float | None]
    verdict: Verdict
    why: Why
    costs: float | None = None


def make_limits(study: Study) -> list[LadderRow]:
    """The ladder of a study: the whole circuit, then what has a limit of its own, the lowest first,
    then what only takes pressure, the dearest first, of the MOST_LOOKED_AT that take most; empty
    where the peak does not solve or nothing is burnt.
    """
    return _ladder(study)


def ladder_known(study: Study) -> bool:
    """Whether the ladder of a study has been made."""
    return _ladder.known(study)


def whole_limit(study: Study) -> LadderRow | None:
    """The top row alone; None where the peak does not solve or nothing is burnt."""
    return _whole(study)[0] if _can(study) else None


def whole_times(study: Study) -> float:
    """The whole circuit's ceiling as a multiple of the power wanted; infinite where there is none up
    to MOST, 0.0 where it holds at no power or does not solve.
    """
    return _whole(study)[1] if _can(study) else 0.0


def what_ends(study: Study) -> str:
    """Which requirement ends the whole circuit: margin, rail, duty or suction; empty where it does
    not solve.
    """
    return _whole(study)[2].what if _can(study) else ""


def gained(study: Study, other: Study) -> float | None:
    """How much more power the circuit of another study like one's own feeds [W]; None where either
    knows no end.
    """
    a = whole_times(study)
    other.near = min(a, MOST) if other.near is None else other.near
    b = whole_times(other)
    return None if math.isinf(a) or math.isinf(b) else b * other.brief.power - a * study.brief.power


def _can(study: Study) -> bool:
    return (
        study.peak.solution.converged
        and study.peak.case.demand > 0
        and study.pumps_deliver(study.peak) > 0
    )


def _ceiling(study: Study) -> Ceiling:
    return _made_ceiling(study)


@derived("brief", "hydraulics", "wiring", "titles")
def _made_ceiling(study: Study) -> Ceiling:
    return make_ceiling(study)


def _whole(study: Study) -> tuple[LadderRow, float, Need]:
    return _made_whole(study)


@derived("brief", "hydraulics", "wiring", "titles")
def _made_whole(study: Study) -> tuple[LadderRow, float, Need]:
    ceiling, as_it_is = _ceiling(study), study.what_if.unlimited
    near = study.near  # the ceiling of a circuit like this one
    if near is None:
        near = (
            study.capacity(study.peak)
            / study.peak.case.demand
            / (1 + headroom_required(study, "peak"))
            if study.tells_surplus
            else 1.0
        )
    times = ceiling.of(as_it_is, min(max(near, 0.05), MOST))
    need, bears = ceiling.binding(as_it_is, times), 100 * allowance(study.brief, "rail_error_check")
    at = need.case.case.title.lower()
    headroom = headroom_required(study, need.case.case.key)
    gives = does(need.parts, "gives", "give")
    words = {
        "margin": f"at {at} {gives} the demand and {100 * headroom:g} % more, and nothing beyond"
        if headroom
        else f"at {at} {gives} just the demand",
        "rail": f"at {at} the {rail_word(study)} is low by what is a Check, {bears:g} %"
        + (f", with the demand times {1 + headroom:g}" if need.times > 1 else ""),
        "duty": f"{_wide(study, need.parts)} at peak",
        "suction": f"at {at} the inlet of {named(need.parts)} is no further above boiling than it needs",
    }[need.what]
    if times == 0.0:
        words = {
            "margin": f"at {at} {gives} nothing at the target pressure",
            "rail": f"at {at} the {rail_word(study)} is low by more than a Check, {bears:g} %, at any power",
            "duty": f"{named(need.parts)} cannot dose any power",
            "suction": f"at {at} the inlet of {named(need.parts)} is nearer boiling than it bears, at any power",
        }[need.what]
        others = ceiling.of(as_it_is, 1.0, tuple(n for n in ceiling.needs if n.what != need.what))
        if others:
            words += f"; all else holds up to {_power(min(others, MOST) * study.brief.power)}"
    tolerance = house_figure(
        {
            "duty": "injector_tolerance",
            "margin": "pump_tolerance",
            "rail": "pump_tolerance",
            "suction": "hose_loss_tolerance",
        }[need.what]
    )
    row = _row(
        study,
        need.parts,
        "whole",
        "whole circuit",
        times,
        tolerance,
        [f"limited where {words}" if times and math.isfinite(times) else words],
        "Every requirement of the brief, solved.",
    )
    return row, times, need


def _wide(study: Study, parts: tuple[str, ...]) -> str:
    """That what burns can pass no more: injectors are timed, a needle stands open."""
    return (
        does(parts, "has its needle wide open", "have their needles wide open")
        if study.brief.carbureted
        else does(parts, "is at its duty limit", "are at their duty limit")
    )


def _row(
    study: Study,
    parts: tuple[str, ...],
    kind: str,
    title: str,
    times: float,
    tolerance: float,
    steps: list[str],
    source: str,
    costs: float | None = None,
) -> LadderRow:
    """A row whose ceiling is a multiple of the power wanted, and whose band goes with the tolerance
    of its figures.
    """
    asked = study.brief.power
    ceiling = None if math.isinf(times) else times * asked
    band = (
        (None, None) if ceiling is None else (ceiling * (1 - tolerance), ceiling * (1 + tolerance))
    )
    low, high = band
    if ceiling == 0.0:
        end = "holds at no power"
    else:
        end = (
            "no limit up to ten times the power wanted"
            if ceiling is None
            else f"holds up to {_power(ceiling)}"
        )
    ladder_rows = [*steps, end]
    if ceiling and low is not None and high is not None:
        ladder_rows.append(
            f"figures good to ±{100 * tolerance:g} %: {_power(low)} to {_power(high)}"
        )
    return LadderRow(
        parts,
        kind,
        title,
        ceiling,
        band,
        _verdict(band, asked),
        Why(tuple(ladder_rows), source),
        costs,
    )


def _verdict(band: tuple[float | None, float | None], asked: float) -> Verdict:
    low, high = band
    return (
        "enough"
        if low is None or low >= asked
        else "short"
        if high is not None and high < asked
        else "marginal"
    )


def _power(power: float) -> str:
    return f"{format_number(power / HORSEPOWER)} hp = {format_number(power / 1000)} kW"


@derived("brief", "hydraulics", "wiring", "titles", "prices", "cases")
def _ladder(study: Study) -> list[LadderRow]:
    if not _can(study):
        return []
    whole, times, _ = _whole(study)
    takers = [e for e in study.build.circuit.elements if e.figures.law in TAKES and e.ports]
    bare = study.what_if.unlimited.changed(*(Lossless(e.id) for e in takers))
    delivery = tuple(n for n in _ceiling(study).needs if n.what in ("margin", "rail"))
    pumps = _ceiling(study).of(bare, min(max(times, 0.05), MOST), delivery)
    own = [
        *_pumps(study, pumps),
        *_suction(study),
        *_regulators(study),
        *_ratings(study),
        *_injectors(study),
    ]
    own.sort(key=lambda x: (x.ceiling is None, x.ceiling or 0.0))
    costs = [
        row
        for e in _looked_at(study, takers)
        if (row := _taker(study, e, bare, times, pumps, delivery)) is not None
    ]
    costs.sort(key=lambda x: -(x.costs or 0.0))
    return [
        whole,
        *_in_every_case(study, times),
        *_with_twins(own, study),
        *_with_twins(costs, study),
    ]


def _in_every_case(study: Study, whole: float) -> list[LadderRow]:
    """The whole circuit's ceiling in the other cases that are not hidden, where one of them ends it
    sooner.
    """
    ceiling, as_it_is = make_ceiling_in_cases(study), study.what_if.unlimited
    if (
        not ceiling.needs
        or max(ceiling.strains(as_it_is, min(max(whole, LEAST), MOST), ceiling.needs)) <= 0
    ):
        return []  # all of it holds where the whole circuit ends
    times = ceiling.of(as_it_is, min(max(whole, 0.05), MOST))
    if times >= whole * (1 - 2 * CLOSE):
        return []
    need = ceiling.binding(as_it_is, times)
    words = {
        "margin": f"{does(need.parts, 'gives', 'give')} just the demand",
        "rail": f"the {rail_word(study)} is low by what is a Stop there",
        "duty": _wide(study, need.parts),
        "suction": f"the inlet of {named(need.parts)} boils, or comes nearer to it than the pump bears",
    }[need.what]
    steps = [
        f"at {need.case.case.title[:1].lower()}{need.case.case.title[1:]} {words}{'' if times else ', at any power'}"
    ]
    return [
        _row(
            study,
            need.parts,
            "cases",
            "in every case",
            times,
            house_figure("pump_tolerance"),
            steps,
            "Every case of the circuit as it is that is not hidden, solved.",
        )
    ]


def _looked_at(study: Study, takers: list[Element]) -> list[Element]:
    """The parts that take most by friction at peak, MOST_LOOKED_AT of them: each costs two
    searches.
    """
    return sorted(takers, key=lambda e: abs(study.friction(study.peak, e.id)), reverse=True)[
        :MOST_LOOKED_AT
    ]


def _with_twins(rows: list[LadderRow], study: Study) -> list[LadderRow]:
    """Rows of like parts with like figures as one: what is said holds for each of them."""
    close, out = 2 * CLOSE * study.brief.power, list[LadderRow]()

    def like(a: LadderRow, b: LadderRow) -> bool:
        pairs = ((a.ceiling, b.ceiling), (a.costs, b.costs))
        same = all(
            (x is None) == (y is None) and abs((x or 0.0) - (y or 0.0)) <= close for x, y in pairs
        )
        return (
            same
            and (a.kind, a.title, len(a.parts)) == (b.kind, b.title, 1)
            and a.kind not in ("suction", "rating")
        )

    for row in rows:
        twin = next(
            (i for i, x in enumerate(out) if like(replace(x, parts=x.parts[:1]), row)), None
        )
        if twin is None:
            out.append(row)
        else:
            out[twin] = replace(
                out[twin],
                parts=tuple(sorted((*out[twin].parts, *row.parts), key=lambda x: (len(x), x))),
            )
    return out


def _pumps(study: Study, times: float) -> list[LadderRow]:
    """Pumps with nothing in their way; where none is, the height that fuel falls from."""
    pumps = study.feed_path.pumps
    if not pumps:
        tanks = tuple(t.id for t in study.feed_path.tanks)
        steps = ["with nothing in its way, the fuel falls so much, less the margin"]
        return [
            _row(
                study,
                tanks,
                "gravity",
                "gravity feed",
                times,
                0.0,
                steps,
                "Height of the fuel over the bowl.",
            )
        ]
    steps = ["with nothing in their way" if len(pumps) > 1 else "with nothing in its way"]
    if times == 0.0:
        steps = [
            "the target pressure is more than they make, at any power"
            if len(pumps) > 1
            else "the target pressure is more than it makes, at any power"
        ]
    return [
        _row(
            study,
            tuple(p.id for p in pumps),
            "pumps",
            "pumps" if len(pumps) > 1 else "pump",
            times,
            _tolerance(pumps[0], "pump_tolerance"),
            steps,
            "Pump maps; margin of the brief.",
        )
    ]


def _tolerance(element: Element, usual: str) -> float:
    """A part's own tolerance, or the usual one of its kind."""
    own = element.properties.flow_tolerance
    return own if own is not None else house_figure(usual)


def _taker(
    study: Study,
    element: Element,
    bare: WhatIf,
    times: float,
    pumps: float,
    delivery: tuple[Need, ...],
) -> LadderRow | None:
    """A part that takes pressure: what the whole circuit gains without that, and what it alone
    leaves of the pumps' own ceiling. None where nothing flows through it.
    """
    if not any(
        abs(s.solution.flow(x.key)) > 0
        for s in study.solved.values()
        for x in s.solution.net.geometry.links_of.get(element.id, ())
    ):
        return None
    ceiling, as_it_is = _ceiling(study), study.what_if.unlimited
    without = ceiling.of(as_it_is.changed(Lossless(element.id)), min(max(times, LEAST), MOST))
    costs = None if math.isinf(times) else max(min(without, MOST) - times, 0.0) * study.brief.power
    alone = ceiling.of(bare.with_loss(element.id), min(max(pumps, LEAST), MOST), delivery)
    ends = alone < pumps * (1 - PLAYS) and pumps != 0.0
    tolerance = house_figure(TOLERANCE.get(element.kind, "hose_loss_tolerance"))
    step = (
        [
            f"without its pressure drop the whole circuit supports {_power(min(without, MOST) * study.brief.power)}"
        ]
        if costs is not None
        else []
    )
    row = _row(
        study,
        (element.id,),
        element.kind,
        element.title or element.kind,
        alone if ends else math.inf,
        0.0,
        step,
        "Solved with this part alone in the pumps' way.",
        costs,
    )
    if not ends:
        return row
    # Its tolerance is that of what it takes: of the way from the pumps' own ceiling down to its
    # own; where fuel falls, of a loss that goes as the square.
    low, high = (
        max(
            alone / (1 + side * tolerance) ** 0.5
            if math.isinf(pumps)
            else pumps - (pumps - alone) * (1 + side * tolerance),
            0.0,
        )
        * study.brief.power
        for side in (1, -1)
    )
    return replace(row, band=(low, high), verdict=_verdict((low, high), study.brief.power))


def _suction(study: Study) -> list[LadderRow]:
    """What the suction side of each pump passes before its inlet is no further above boiling than
    it needs, as the power of an engine whose pumps move so much.
    """
    rows = []
    met: set[str] = set()
    needs = [n for n in _ceiling(study).needs if n.what == "suction" and n.case.case.key == "peak"]
    peak = study.peak
    back = study.tells_surplus
    for need in needs:
        pump = study.build.circuit.element(need.parts[0])
        assert pump is not None
        if pump.ports["start"] in met or not peak.solution.flow(pump.id):
            continue
        met.add(pump.ports["start"])

        def strain(times: float, need: Need = need) -> float:
            solution = _at_flow(study, times)
            return need.strain(solution, 0.0) if solution.converged else math.inf

        root = expanding_root(strain, 1.0, LEAST, MOST, 1e-4)
        flow = study.capacity(peak) if back else peak.case.demand
        times = (
            root * flow / peak.case.demand / (1 + headroom_required(study, "peak") if back else 1.0)
        )
        before = [e.id for e in upstream(study.build.circuit, pump) if e.kind != "tank"]
        most = sorted(
            before, key=lambda x: -abs(getattr(peak.solution.link(x), "loss", 0.0) or 0.0)
        )
        steps = [
            f"its suction side passes {format_number(min(root, MOST) * peak.solution.flow(pump.id) / LPH)} L/h before {pump.id}'s inlet is no further above boiling than it needs"
        ]
        if back:
            steps.append("an engine whose pumps move so much, with the margin")
        rows.append(
            _row(
                study,
                (most[0] if most else pump.id, pump.id),
                "suction",
                f"suction of {pump.id}",
                times if root else 0.0,
                house_figure("hose_loss_tolerance"),
                steps,
                "Rule S-01.",
            )
        )
    return rows


def _at_flow(study: Study, times: float) -> Solution:
    """The circuit at peak with every pump at a multiple of its flow."""
    peak, what_if = study.peak, study.what_if.unlimited
    laws: dict[str, Law] = {}
    for link in peak.solution.net.links:
        if not isinstance(link.law, PumpRise):
            continue
        if study.turns_back:
            laws[link.key] = replace(link.law, given=peak.solution.flow(link.key) * times)
        else:
            wide = (
                max(times, 1.0) * 2
            )  # regulators and floats set what passes, so larger pumps of the same pressure do
            shares = [replace(s, flow_scale=s.flow_scale / wide) for s in link.law.shares]
            laws[link.key] = replace(
                link.law, shares=shares, relief=INFINITE, last_flow=link.law.last_flow * wide
            )
    return what_if.at(
        peak.case.point, peak.case.demand * (min(times, 1.0) if study.turns_back else times), laws
    )


def _regulators(study: Study) -> list[LadderRow]:
    """What a regulator can pass while it holds: one that turns fuel back at idle, one that lets it
    on at peak; as the power of an engine whose pumps give so much.
    """
    rows = []
    check, idle, peak = allowance(study.brief, "rail_error_check"), study.solved["idle"], study.peak
    for e in study.build.circuit.of_kind("regulator"):
        part = e.figures
        if not isinstance(part, Regulator):
            continue
        back = part.holds == "inlet"
        solved = idle if back else peak
        asked = max(
            study.asked(solved), 0.0
        )  # a vacuum may ask for less than the air, which drives nothing home
        if not solved.solution.flow(e.id) or (
            not any(e.id == x.id for x in study.feed_path.turned_back) and back
        ):
            continue
        wide = quadratic_coefficient(
            part.wide_open_loss_coefficient, part.wide_open_bore_mm / 1000, solved.solution.density
        )
        room = check * asked
        slope = part.slope_kpa_per_lph * 1000 / LPH
        reach = room / slope if slope else math.inf
        if back:
            flow = min(reach, math.sqrt(asked * (1 + check) / wide))
            times = flow / peak.case.demand / (1 + headroom_required(study, "peak"))
            steps = [
                f"bypasses {format_number(flow / LPH)} L/h at idle before the rail reads {100 * check:g} % high: what pumps with the margin give such an engine"
            ]
        else:
            flow = reach
            times = flow / max(peak.solution.flow(e.id), 1e-12)
            steps = (
                [
                    f"passes {format_number(flow / LPH)} L/h before its slope lets the pressure down by {100 * check:g} %"
                ]
                if math.isfinite(flow)
                else ["holds without slope"]
            )
        title, times = "bypasses" if back else "regulator", times if times <= MOST else math.inf
        rows.append(
            _row(
                study,
                (e.id,),
                "regulator",
                title,
                times,
                house_figure("filter_tolerance"),
                steps,
                "Slope and seat of the part.",
            )
        )
    return rows


def _ratings(study: Study) -> list[LadderRow]:
    """The pressure a pump is rated for against what it works against, at the flow of its own
    ceiling: a row only where that is where it ends.
    """
    rows = []
    for e in study.build.circuit.of_kind("pump"):
        rated, link = e.properties.rated_kpa, study.peak.solution.links.get(e.id)
        if (
            rated is None
            or link is None
            or not link.loss
            or not isinstance(e.figures, PumpMap)
            or not link.flow
        ):
            continue

        def strain(times: float, name: str = e.id, rated: float = rated) -> float:
            solution = _at_flow(study, times)
            root = solution.links.get(name) if solution.converged else None
            return (
                math.inf if root is None or root.loss is None else -root.loss / (rated * 1000) - 1
            )

        if strain(1.0) <= -0.25 or strain(LEAST) > 0:
            continue  # far from it, or over it whatever is burnt: that is rule P-10's
        root = expanding_root(strain, 1.0, LEAST, MOST, 1e-3)
        if 0 < root <= MOST:
            times = (
                root
                * study.capacity(study.peak)
                / study.peak.case.demand
                / (1 + headroom_required(study, "peak"))
            )
            steps = [
                f"at {format_number(root * link.flow / LPH)} L/h the lines behind it need the {format_number(rated)} kPa it is rated for"
            ]
            rows.append(
                _row(
                    study,
                    (e.id,),
                    "rating",
                    "rated pressure",
                    times,
                    house_figure("hose_loss_tolerance"),
                    steps,
                    "Maker's rating.",
                )
            )
    return rows


def _injectors(study: Study) -> list[LadderRow]:
    """Injectors and needles at the pressure asked, up to their duty limit."""
    rows, peak = [], study.peak
    for element in study.feed_path.burners:
        part = element.figures
        if not isinstance(part, Injectors) or part.rated_lph is None:
            continue
        across = study.brief.base_kpa
        full = injectors_full_flow(part, across * 1000, peak.solution.density)
        flowing, opening = study.wanted(peak, part) / full, dead_share(study, peak, element)
        times = max(part.duty_limit - opening, 0.0) / flowing
        title = "needles" if element.kind == "carburettor" else "injectors"
        opens = f" and opening {format_number(100 * opening)} %" if opening else ""
        steps = [
            f"flowing {format_number(100 * flowing)} % of the time{opens}, {100 * part.duty_limit:g} % allowed, at {format_number(across)} kPa across them"
        ]
        times = times if times <= MOST else math.inf
        rows.append(
            _row(
                study,
                (element.id,),
                title,
                title,
                times,
                _tolerance(element, "injector_tolerance"),
                steps,
                "Duty limit: common practice.",
            )
        )
    return rows
