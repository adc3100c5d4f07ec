"""Show me why: the arithmetic of every figure on the Circuit page, with the build's own numbers in
the formula.
"""

import math

from tall_heron.core.base.arithmetic import Why, format_number
from tall_heron.core.base.constants import GRAVITY, LPH, PSI
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.figures import (
    Air,
    Check,
    Displacement,
    Injectors,
    Jet,
    Loss,
    Pipe,
    PumpMap,
    Quadratic,
    Regulator,
    TankLevel,
    Tap,
    Tee,
)
from tall_heron.core.document.point import reference_pressure_kpa
from tall_heron.core.hydraulics.compile import injectors_full_flow, pipe_coefficient
from tall_heron.core.hydraulics.results import LinkResult
from tall_heron.core.physics.friction import darcy_friction
from tall_heron.core.physics.pump import density_times, voltage_shares
from tall_heron.core.study.demand import allowance
from tall_heron.core.study.inlet import inlet_of
from tall_heron.core.study.lift import lifts, overflow_pressure
from tall_heron.core.study.study import Solved, Study, tapped


def _pressure(pa: float) -> str:
    return f"{format_number(pa / 1000)} kPa = {format_number(pa / PSI)} psi"


def why_rail(study: Study, solved: Solved) -> Why:
    """Rail pressure asked: base and manifold."""
    brief = study.brief
    what = "bowl" if brief.carbureted else "manifold"
    felt = study.asked(solved) / 1000 - brief.base_kpa
    step = f"target = {format_number(brief.base_kpa)} kPa base + {format_number(felt)} kPa {what} = {_pressure(study.asked(solved))} gauge"
    error = study.rail_error(solved)
    steps = [step]
    if error is not None:
        off, asked = error
        steps.append(
            f"got = {_pressure(asked + off)} gauge, {format_number(off / 1000)} kPa off, {format_number(100 * off / asked, 2)} % of target"
        )
    if brief.carbureted:
        return Why(
            tuple(steps),
            "What the needles see is fuel pressure less the pressure on the bowl: air, or boost.",
        )
    return Why(
        tuple(steps),
        "The injectors see rail less manifold: base, if the regulator follows the manifold 1 : 1.",
    )


def why_deliver(study: Study, solved: Solved) -> Why:
    """Pump flow: the sum of the pumps at the pressure they work against."""
    sources = study.feed_path.sources(solved.solution)
    links = [x for name in sources if (x := solved.solution.links.get(name)) is not None]
    parts = (
        " + ".join(f"{name} {format_number(flow / LPH)} L/h" for name, flow in sources.items())
        or "nothing"
    )
    against = ", ".join(
        f"{p.element} against {_pressure(-p.loss)}" for p in links if p.loss is not None
    )
    steps = (
        f"Q = {parts} = {format_number(sum(sources.values()) / LPH)} L/h",
        against or "no pump to work against a pressure",
    )
    return Why(
        steps,
        "What flows into the lines that feed the burners, summed where it comes in: pumps by their maps, where they meet the circuit; tanks by their height.",
    )


def why_headroom(study: Study, solved: Solved) -> Why:
    """Spare pump flow over the demand."""
    deliver, burnt = study.capacity(solved) / LPH, solved.case.demand / LPH
    if burnt <= 0:
        return Why(("no demand in this case",), "")
    if not study.tells_surplus:
        off = f"{format_number(100 * allowance(study.brief, 'rail_error_check'), 2)} % low"
        steps = (
            f"the pumps can feed {format_number(deliver)} L/h before the pressure is {off}",
            f"headroom = {format_number(deliver)} ÷ {format_number(burnt)} − 1 = {format_number(100 * (deliver / burnt - 1), 2)} %",
        )
        return Why(
            steps, "The circuit was solved for the largest demand it can supply at pressure."
        )
    taken, back = (
        study.feed_path.burnt(solved.solution) / LPH,
        study.feed_path.surplus(solved.solution) / LPH,
    )
    beside = tapped(study.build.circuit, solved.solution) / LPH
    taps = f"; auxiliary taps take {format_number(beside)} L/h besides" if beside else ""
    return Why(
        (
            f"for the engine {format_number(taken)} L/h demand + {format_number(back)} L/h bypassed = {format_number(deliver)} L/h{taps}",
            f"headroom = {format_number(deliver)} ÷ {format_number(burnt)} − 1 = {format_number(100 * (deliver / burnt - 1), 2)} %",
        ),
        "Percent of the fuel demand.",
    )


def why_suction(study: Study, solved: Solved) -> Why:
    """How far the pump inlet stays from boiling."""
    clear = study.clear_of_boiling(solved)
    if clear is None:
        return Why(("no pump has an inlet pressure",), "")
    atmosphere = solved.case.point.atmosphere_kpa
    vapor = study.boils_at(solved.case.fuel) / 1000
    inlet = inlet_of(solved.solution.net.geometry.circuit, clear[1])
    entry, speed, stands = (
        x / 1000
        for x in (
            inlet.entry(solved.solution),
            inlet.speed(solved.solution),
            inlet.pressure(solved.solution) or 0.0,
        )
    )
    steps = (
        f"at {clear[1]} {format_number(stands + entry + speed)} kPa gauge − {format_number(entry)} kPa entry at the tank"
        f" − {format_number(speed)} kPa of speed (ρ v² ÷ 2) = {format_number(stands)} kPa",
        f"vapor margin = {format_number(stands)} kPa + {format_number(atmosphere)} kPa air − {format_number(vapor)} kPa vapor = {_pressure(clear[0])}",
    )
    law = study.boiling_law(solved.case.fuel)
    return Why(
        steps,
        f"{law[:1].upper()}{law[1:]}; {study.brief.fuel_temperature_c:g} °C. Entry: K 0.5 of a sharp edge where a line starts at a tank.",
    )


def why_part(study: Study, solved: Solved, element: Element) -> Why:
    """What one part takes or gives at a case."""
    links = [x for x in solved.solution.links.values() if x.element == element.id]
    if isinstance(element.figures, TankLevel):
        return _why_tank(solved, element, element.figures)
    if isinstance(element.figures, Tap):
        pressure = solved.solution.nodes.get(element.ports.get("start", ""))
        return Why(
            (
                f"reads {_pressure(pressure)} gauge"
                if pressure is not None
                else "nothing to read: the pressure is undefined",
            ),
            "Pressure of its node.",
        )
    if isinstance(element.figures, Air):
        return Why(("carries air, not fuel: nothing flows in the sums",), "")
    if not solved.solution.converged:
        return Why(("no answer to show: the circuit does not solve",), "")
    if element.kind == "overflow":
        return _why_overflow(study, element)
    if not links:
        return Why((f"{element.id} is not on the fuel's way: nothing flows in the sums",), "")
    link = max(links, key=lambda x: abs(x.flow))
    part = element.figures
    if isinstance(part, Pipe):
        return _why_hose(solved, element, part, link)
    if isinstance(part, Quadratic):
        return _why_filter(solved, element, part, link)
    if isinstance(part, Loss | Check):
        return _why_loss(solved, element, part, link)
    if isinstance(part, PumpMap):
        return _why_pump(solved, element, part, link)
    if isinstance(part, Tee):
        return Why(
            (
                f"Δp = K ρ v² ÷ 2, K {part.run_loss_coefficient:g} through the run, {part.branch_loss_coefficient:g} round the corner",
                *_at_its_ends(solved, element, link)[0],
            ),
            "K on the tee's bore.",
        )
    if isinstance(part, Displacement):
        rpm = solved.case.point.engine_rpm or 0.0
        swept = part.cc_per_turn * part.ratio * rpm * 60 / 1000
        steps = [
            f"swept = {format_number(part.cc_per_turn)} cc × {part.ratio:g} × {format_number(rpm, 4)} rpm × 60 = {format_number(swept)} L/h"
        ]
        if part.rated_rpm:
            steps.append(
                f"what it slips at {part.rated_rpm:,.0f} turns of its own it slips at any speed: ({format_number(part.cc_per_turn)} cc × {part.rated_rpm:,.0f} rpm × 60) × (1 − efficiency)"
            )
        if link.loss is not None:
            steps.append(
                f"gives {format_number(link.flow / LPH)} L/h against {_pressure(-link.loss)}: {format_number(100 * link.flow / LPH / swept) if swept else '—'} % of it"
            )
        return Why(
            tuple(steps), "Volumetric efficiency over pressure: the pump's sheet (invented)."
        )
    if isinstance(part, Jet):
        nozzle, drawn = (
            solved.solution.links.get(f"{element.id}.{x}") for x in ("motive", "suction")
        )
        if nozzle is None or drawn is None:
            return Why(("the jet stands still",), "")
        times = drawn.flow / nozzle.flow if nozzle.flow else 0.0
        step = f"{format_number(nozzle.flow / LPH)} L/h through a nozzle of {part.nozzle_mm:g} mm draws {format_number(drawn.flow / LPH)} L/h along, {format_number(times)} times as much"
        return Why(
            (step,), "Momentum of the jet shared in the throat (Cunningham 1957, from memory)."
        )
    if isinstance(part, Regulator):
        return _why_regulator(solved, part, link)
    if isinstance(part, Injectors):
        return _why_injectors(study, solved, part, link)
    raise TypeError(f"no arithmetic for the law {part.law}")


def _why_overflow(study: Study, element: Element) -> Why:
    """What an overflow sheds at idle, when least is burnt, and the pressure it stands under then."""
    idle = study.solved["idle"]
    lift = next(iter(lifts(study)), None)
    if lift is None or not idle.solution.converged or not isinstance(element.figures, Pipe):
        return Why(("nothing is lifted: nothing runs over in the sums",), "")
    brings = lift.lifted(idle)
    surplus = max(brings - idle.case.demand, 0.0)
    pumps = " and ".join(p.id for p in lift.pumps)
    return Why(
        (
            f"at idle: {pumps} {format_number(brings / LPH)} L/h − demand {format_number(idle.case.demand / LPH)} L/h = {format_number(surplus / LPH)} L/h to shed",
            f"Δp = (f L ÷ D + K) ρ v² ÷ 2 = {_pressure(overflow_pressure(idle, element, surplus))} on {format_number(element.figures.bore_mm)} mm bore",
        ),
        "Darcy, with entry and exit.",
    )


def _why_tank(solved: Solved, element: Element, part: TankLevel) -> Why:
    pressure = solved.solution.nodes.get(element.ports["outlet"])
    if part.floats:
        stands = (
            f"stands at {_pressure(pressure)} gauge" if pressure is not None else "nothing fills it"
        )
        return Why(
            (stands,),
            "A header that falls full: the tank's height over it, less the fill line's drop at what is drawn.",
        )
    level, rho = solved.case.point.level_mm.get(element.id, part.level_mm), solved.solution.density
    fuel = rho * GRAVITY * level / 1000
    gas = (
        (
            f"with {format_number(part.gauge_kpa)} kPa of gas over it: {_pressure(fuel + part.gauge_kpa * 1000)}",
        )
        if part.gauge_kpa
        else ()
    )
    return Why(
        (
            f"p = ρ g h = {format_number(rho)} × {GRAVITY:.2f} × {format_number(level / 1000)} m = {_pressure(fuel)}",
            *gas,
        ),
        "Level above the outlet.",
    )


def _lift(solved: Solved, link: LinkResult, friction: float) -> tuple[str, ...]:
    rise = (link.loss or 0.0) - friction
    if abs(rise) < 1.0:
        return ()
    return (
        f"with the height between its ends: {format_number(friction / 1000)} + {format_number(rise / 1000)} = {_pressure(link.loss or 0.0)}",
    )


def _why_hose(solved: Solved, element: Element, part: Pipe, link: LinkResult) -> Why:
    rho, mu = solved.solution.density, solved.solution.viscosity
    bore, length = part.bore_mm / 1000, element.length.mm / 1000 if element.length else 0.0
    area = math.pi * bore**2 / 4
    v = abs(link.flow) / area
    if v == 0:
        return Why(("nothing flows",), "")
    re = rho * v * bore / mu
    f = darcy_friction(re, part.roughness_um / 1000 / part.bore_mm) * part.friction_factor_times
    k = pipe_coefficient(element)
    friction, against = (
        math.copysign((f * length / bore + k) * rho * v * v / 2, link.flow),
        "−" if link.flow < 0 else "",
    )
    steps = (
        f"v = Q ÷ A = {format_number(abs(link.flow) / LPH)} L/h ÷ {format_number(area * 1e6)} mm² = {format_number(v)} m/s",
        f"Re = ρ v D ÷ μ = {format_number(rho)} × {format_number(v)} × {format_number(bore)} ÷ {format_number(mu)} = {format_number(re)}, {link.state}",
        f"Δp = {against}(f L ÷ D + K) ρ v² ÷ 2 = {against}({format_number(f)} × {format_number(length)} ÷ {format_number(bore)} + {format_number(k)}) × {format_number(rho)} × {format_number(v)}² ÷ 2"
        f" = {_pressure(friction)}",
        *_lift(solved, link, friction),
    )
    note = " Between Re 2000 and 4000 take it as ±30 %." if link.transition else ""
    return Why(
        steps,
        f"Darcy-Weisbach; f by Hagen-Poiseuille and Swamee-Jain; K of both ends, of the adapters they need and of the bends as drawn.{note}",
    )


def _at_its_ends(
    solved: Solved, element: Element, link: LinkResult, own: float = 0.0
) -> tuple[tuple[str, ...], float]:
    """What the adapters at a part's ports take that its joints need and the circuit does not draw:
    the steps, and the sum with what the part takes of its `own` [Pa].
    """
    rho, total, words = solved.solution.density, 0.0, []
    for k, bore in (row for rows in element.adapters.values() for row in rows):
        v = abs(link.flow) / (math.pi * (bore / 1000) ** 2 / 4)
        total += math.copysign(k * rho * v * v / 2, link.flow)
        words.append(f"{format_number(k)} × {format_number(rho)} × {format_number(v)}² ÷ 2")
    if not words:
        return (), own
    both = f"together {format_number(own / 1000)} + {format_number(total / 1000)} = {_pressure(own + total)}"
    return (
        f"adapters at its ends: {' + '.join(words)} = {_pressure(total)}",
        *([both] if own else []),
    ), own + total


def _why_filter(solved: Solved, element: Element, part: Quadratic, link: LinkResult) -> Why:
    q, rho, mu = link.flow / LPH, solved.solution.density, solved.solution.viscosity * 1000
    a, b = part.a_kpa_per_lph, part.b_kpa_per_lph2
    if part.measured_with is None:
        total = (a * q + b * q * abs(q)) * 1000
        step = f"Δp = a Q + b Q² = {format_number(a)} × {format_number(q)} + {format_number(b)} × {format_number(q)}² = {_pressure(total)}"
        beside, total = _at_its_ends(solved, element, link, total)
        return Why(
            (step, *beside, *_lift(solved, link, total)), "a and b of the part, for this fuel."
        )
    m, r = mu / part.measured_with.viscosity_mpa_s, rho / part.measured_with.density_kg_m3
    total = a * q * m + b * q * abs(q) * r
    step = f"Δp = a Q μ ÷ μ₀ + b Q² ρ ÷ ρ₀ = {format_number(a)} × {format_number(q)} × {format_number(m)} + {format_number(b)} × {format_number(q)}² × {format_number(r)} = {_pressure(total * 1000)}"
    beside, total = _at_its_ends(solved, element, link, total * 1000)
    return Why(
        (step, *beside, *_lift(solved, link, total)),
        "Maker's one point split half and half between laminar and turbulent; clean element.",
    )


def _why_loss(solved: Solved, element: Element, part: Loss | Check, link: LinkResult) -> Why:
    rho, area = solved.solution.density, math.pi * (part.bore_mm / 1000) ** 2 / 4
    v = abs(link.flow) / area
    cracking = part.cracking_kpa if isinstance(part, Check) else 0.0
    total = part.loss_coefficient * rho * v * v / 2 + cracking * 1000
    crack = f" + {format_number(cracking)} kPa to open" if cracking else ""
    steps: tuple[str, ...] = (
        f"v = {format_number(abs(link.flow) / LPH)} L/h ÷ {format_number(area * 1e6)} mm² = {format_number(v)} m/s",
        f"Δp = K ρ v² ÷ 2{crack} = {format_number(part.loss_coefficient)} × {format_number(rho)} × {format_number(v)}² ÷ 2{crack} = {_pressure(total)}",
    )
    beside, total = _at_its_ends(solved, element, link, math.copysign(total, link.flow))
    steps += (*beside, *_lift(solved, link, total))
    if link.state == "shut":
        steps = ("shut: nothing flows, and it holds the pressure between its ends",)
    return Why(steps, "K on the part's own bore.")


def _why_pump(solved: Solved, element: Element, part: PumpMap, link: LinkResult) -> Why:
    volts = [c.voltage_v for c in part.curves]
    point, voltage = solved.solution.net.state.point, solved.solution.voltage(element.id)
    ohm, source = point.wire_ohm.get(element.id, 0.0), point.voltage_at(element.id)
    voltage = volts[-1] if voltage is None else voltage
    shares, outside = voltage_shares(
        volts, [c.rows[-1][0] for c in part.curves], voltage, part.kind
    )
    mixed = " + ".join(
        f"{format_number(100 * s.weight)} % of the {volts[s.curve]:g} V map" for s in shares
    )
    if outside:
        mixed = f"beyond its maps: scaled from {volts[shares[0].curve]:g} V by the affinity laws"
    steps = [f"at {format_number(voltage)} V: {mixed}"]
    if ohm and source is not None and link.current is not None:
        steps.insert(
            0,
            f"V = V source − R I = {format_number(source)} V − {format_number(ohm)} Ω × {format_number(link.current)} A = {format_number(voltage)} V, solved together with the fuel",
        )
    measured, rho = (
        part.measured_with.density_kg_m3 if part.measured_with else None,
        solved.solution.density,
    )
    if (times := density_times(part.kind, rho, measured)) != 1.0 and measured is not None:
        steps.append(
            f"a turbine's rise and current go with density: × {format_number(rho)} ÷ {format_number(measured)} kg/m³ of its sheet's fuel = {format_number(times)}"
        )
    if link.loss is not None:
        overrun = link.loss > 0
        steps.append(
            f"{'is overrun by' if overrun else 'gives'} {format_number(link.flow / LPH)} L/h {'and takes' if overrun else 'against'} {_pressure(abs(link.loss))}"
        )
    if link.current is not None:
        steps.append(
            f"draws {format_number(link.current)} A × {format_number(voltage)} V = {format_number(link.current * voltage)} W, which ends in the fuel"
        )
    return Why(tuple(steps), "Maker's maps (invented); the voltage is the pump's own.")


def _why_regulator(solved: Solved, part: Regulator, link: LinkResult) -> Why:
    manifold = reference_pressure_kpa(part.reference, solved.case.point.manifold_kpa)
    slope = part.slope_kpa_per_lph * link.flow / LPH
    sign = "+" if part.holds == "inlet" else "−"
    inlet_pressure = part.set_kpa + manifold + (slope if part.holds == "inlet" else -slope)
    step = (
        f"p = set + manifold {sign} slope × Q = {format_number(part.set_kpa)} + {format_number(manifold)} {sign} {format_number(part.slope_kpa_per_lph)} × {format_number(link.flow / LPH)}"
        f" = {_pressure(inlet_pressure * 1000)} gauge"
    )
    state = {
        "holding": "it holds",
        "wide open": "it is wide open and no longer regulates: the seat and the return set the pressure",
        "shut": "it is shut: the pressure is below its setting",
    }.get(link.state, link.state)
    return Why(
        (step, f"{part.holds}: {state}"), f"Set and slope of the part; reference: {part.reference}."
    )


def _why_injectors(study: Study, solved: Solved, part: Injectors, link: LinkResult) -> Why:
    dp, want = (link.loss or 0.0) / 1000, study.wanted(solved, part) / LPH
    if part.into == "bowl":
        steps = [
            f"the float lets in the demand, {format_number(want)} L/h, while {format_number(dp)} kPa across the needle"
        ]
        source = "Needle and seat as an orifice."
    else:
        opening_words, across = (
            ("commanded", "them") if part.own_lph is None else ("open at full power,", "it")
        )
        steps = [
            f"{opening_words} {format_number(want)} L/h at {format_number(part.commanded_at_kpa)} kPa across {across}",
            f"Q = {format_number(want)} × √({format_number(dp)} ÷ {format_number(part.commanded_at_kpa)}) = {format_number(link.flow / LPH)} L/h",
        ]
        source = (
            "Open time set for the commanded flow; flow follows the root of the pressure across."
        )
        if part.own_lph is not None:
            source = "A jet: flow follows the root of the pressure across. Its flow comes from the pumps on top of the engine's demand."
    if part.rated_lph is not None:
        full = injectors_full_flow(part, dp * 1000, solved.solution.density) / LPH
        steps.append(
            f"duty = {format_number(link.flow / LPH)} ÷ {format_number(full)} L/h fully open = {format_number(100 * link.flow / LPH / full, 2) if full else '—'} %"
        )
    return Why(tuple(steps), source)
