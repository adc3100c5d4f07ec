"""The rows of the ladder for its parts: pumps, suction sides, regulators, ratings, injectors, and
what takes pressure.
"""

import math
from dataclasses import replace

from tall_heron.core.base.arithmetic import Why, format_number
from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.base.constants import LPH
from tall_heron.core.base.roots import expanding_root
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.figures import Displacement, Injectors, PumpMap, Regulator
from tall_heron.core.document.path import upstream
from tall_heron.core.hydraulics.compile import injectors_full_flow
from tall_heron.core.hydraulics.laws import INFINITE, Law, PumpRise
from tall_heron.core.hydraulics.results import Solution
from tall_heron.core.physics.fittings import quadratic_coefficient
from tall_heron.core.sizing.ceiling import (
    LEAST,
    MOST,
    Need,
    headroom_required,
)
from tall_heron.core.sizing.whole_limit import (
    LadderRow,
    ceiling_of,
    ladder_row,
    power_words,
    verdict_on,
)
from tall_heron.core.study.cases.injector_duty import dead_share
from tall_heron.core.study.cases.moments import CRUISE_SPEED
from tall_heron.core.study.demand import allowance
from tall_heron.core.study.study import Study
from tall_heron.core.study.what_if import Lossless, WhatIf

TAKES = ("pipe", "quadratic", "loss", "check", "tee")  # laws of parts that take pressure


PLAYS = 1e-3  # of the pumps' own ceiling: a part that lowers it by less is not what ends it


TOLERANCE = {
    "filter": "filter_tolerance",
    "strainer": "filter_tolerance",
    "hose": "hose_loss_tolerance",
    "line": "hose_loss_tolerance",
}


def pump_rows(study: Study, times: float) -> list[LadderRow]:
    """Pumps with nothing in their way; where none is, the height that fuel falls from."""
    pumps = study.feed_path.pumps
    if not pumps:
        tanks = tuple(t.id for t in study.feed_path.tanks)
        steps = ["with nothing in its way, the fuel falls so much, less the margin"]
        return [
            ladder_row(
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
        ladder_row(
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


def loss_row(
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
    ceiling, as_it_is = ceiling_of(study), study.what_if.unlimited
    without = ceiling.of(as_it_is.changed(Lossless(element.id)), min(max(times, LEAST), MOST))
    costs = None if math.isinf(times) else max(min(without, MOST) - times, 0.0) * study.brief.power
    alone = ceiling.of(bare.with_loss(element.id), min(max(pumps, LEAST), MOST), delivery)
    ends = alone < pumps * (1 - PLAYS) and pumps != 0.0
    tolerance = house_figure(TOLERANCE.get(element.kind, "hose_loss_tolerance"))
    step = (
        [
            f"without its pressure drop the whole circuit supports {power_words(min(without, MOST) * study.brief.power)}"
        ]
        if costs is not None
        else []
    )
    row = ladder_row(
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
    good = f"its pressure drop good to ±{100 * tolerance:g} %: {power_words(low)} to {power_words(high)}"
    return replace(
        row,
        band=(low, high),
        verdict=verdict_on((low, high), study.brief.power),
        why=Why((*row.why.steps, good), row.why.source),
    )


def suction_rows(study: Study) -> list[LadderRow]:
    """What the suction side of each pump passes before its inlet is no further above boiling than
    it needs, as the power of an engine whose pumps move so much.
    """
    rows = []
    met: set[str] = set()
    needs = [
        n for n in ceiling_of(study).needs if n.what == "suction" and n.case.case.key == "peak"
    ]
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
            ladder_row(
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


def _turns_back(study: Study) -> float:
    """How much of what pumps give at full power they give back at light load [-]: all of it where
    electric ones run on; of pumps on the engine what they give at idle, or at cruise beyond its burn.
    """
    if not any(isinstance(p.figures, Displacement) for p in study.feed_path.pumps):
        return 1.0
    full = study.capacity(study.peak)
    idle = study.capacity(study.solved["idle"]) / full if full > 0 else 1.0
    cruise = house_figure(
        "cruise_share_air" if study.brief.use == "flight" else "cruise_share_road"
    )
    burnt = cruise * study.peak.case.demand / full if full > 0 else 0.0
    return min(max(idle, CRUISE_SPEED - burnt), 1.0)


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


def regulator_rows(study: Study) -> list[LadderRow]:
    """What a regulator can pass while it holds: one that turns fuel back at idle, one that lets it
    on at peak; as the power of an engine whose pumps give so much.
    """
    rows = []
    idle, peak = study.solved["idle"], study.peak
    for e in study.build.circuit.of_kind("regulator"):
        part = e.figures
        if not isinstance(part, Regulator):
            continue
        back = part.holds == "inlet"
        check = allowance(study.brief, "rail_over_check" if back else "rail_error_check")
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
            share = _turns_back(study)
            times = flow / peak.case.demand / (1 + headroom_required(study, "peak")) / share
            given = "pumps" if share == 1 else f"pumps on the engine, {100 * share:.0f} % of it,"
            steps = [
                f"bypasses {format_number(flow / LPH)} L/h at idle before the rail reads {100 * check:g} % high: what {given} with the margin give such an engine"
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
            ladder_row(
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


def rating_rows(study: Study) -> list[LadderRow]:
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
                ladder_row(
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


def injector_rows(study: Study) -> list[LadderRow]:
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
            ladder_row(
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
