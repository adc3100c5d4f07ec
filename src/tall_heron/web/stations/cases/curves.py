"""What the page of curves shows: pumps against what is asked, what changes with power, the card for
the dyno, pulses.
"""

from typing import Any

from tall_heron.core.design import Design
from tall_heron.core.study.cases.curves import power_sweep, pump_chart
from tall_heron.core.study.cases.dyno import dyno_card
from tall_heron.core.study.cases.pulsation import pulsation, rail_swing
from tall_heron.core.study.demand import allowance
from tall_heron.core.study.study import Study
from tall_heron.web.answers import Stored
from tall_heron.web.drawing.charts.curve import CurveChart, CurveLine, Dot, make_curve_chart
from tall_heron.web.frame import frame
from tall_heron.web.show.text import in_unit, number, shown, unit_of


def curves_context(found: Stored, made: Design) -> dict[str, Any]:
    """Everything the page shows."""
    study = made.study
    charts = [c for c in (_pumps(study), *_sweep(study), *_over_speed(study)) if c is not None]
    return frame(found, made, "cases") | {
        "view": "curves",
        "charts": charts,
        "pulls": dyno_card(study),
        "pulses": pulsation(study),
        **_swing(study),
        "lift_share": allowance(study.brief, "rail_error_stop"),
    }


def _swing(study: Study) -> dict[str, Any]:
    """How far the rail swings at full load: a sentence with its sum, and the chart."""
    pulses, swing = pulsation(study), rail_swing(study)
    if pulses is None or swing is None:
        return {}
    i = swing.worst

    def spread(pascals: float) -> str:
        return shown(pascals, "pressure_difference")

    other = "without the damper" if pulses.has_damper else "with a damper at the rail"
    says = (
        f"At full load the rail swings by up to {spread(swing.as_is[i])} from peak to peak, near"
        f" {number(round(swing.rpm[i], -2))} rpm; {other} by up to {spread(max(swing.other))}."
        f" A shot is {number(1e9 * swing.shot)} mm³."
    )
    lines = [
        CurveLine("as it is", [in_unit(x, "pressure_difference") for x in swing.as_is]),
        CurveLine(other, [in_unit(x, "pressure_difference") for x in swing.other], "amber", True),
    ]
    return {
        "swing_says": says,
        "swing": make_curve_chart(
            "swing",
            f"Swing of the rail, peak to peak, at most, {unit_of('pressure_difference')}",
            "engine speed, rpm",
            unit_of("pressure_difference"),
            list(swing.rpm),
            lines,
        ),
    }


def _pumps(study: Study) -> CurveChart | None:
    chart = pump_chart(study)
    if chart is None:
        return None
    flow = [in_unit(q, "volume_flow") for q in chart.flow]

    def up(values: Any) -> list[float]:
        return [in_unit(float(v), "pressure_difference") for v in values]

    volts = [study.solved[k].case.point.voltage_at("") for k in ("peak", "low voltage")]
    where = " at the source" if study.what_if.harness is not None else ""
    pumps = [p.id for p in study.feed_path.pumps]
    lines = [
        CurveLine(
            f"{' + '.join(pumps)}, {volts[0]:.1f} V{where}" if volts[0] else " + ".join(pumps),
            up(chart.together),
        ),
        CurveLine(
            f"{volts[1]:.1f} V{where}" if volts[1] else "low voltage", up(chart.low), dashed=True
        ),
    ]
    lines += (
        [CurveLine(f"{pumps[0]} alone", up(chart.alone), "own")] if chart.alone is not None else []
    )
    lines.append(CurveLine("circuit at peak", up(chart.asks), "amber"))
    dots = [
        Dot(
            in_unit(m.flow, "volume_flow"),
            in_unit(m.rise, "pressure_difference"),
            m.title,
            "rust" if m.low else "ink",
        )
        for m in chart.marks
    ]
    title = f"Pumps against the circuit; demand at peak {shown(chart.fuel_demand, 'volume_flow')}"
    return make_curve_chart(
        "pumps",
        title,
        f"flow, {unit_of('volume_flow')}",
        f"rise, {unit_of('pressure_difference')}",
        flow,
        lines,
        dots,
    )


def _sweep(study: Study) -> list[CurveChart | None]:
    rows = power_sweep(study)
    if all(r.rail is None for r in rows):
        return []
    power = [in_unit(r.share * study.brief.power, "power") for r in rows]
    along = f"power, {unit_of('power')}"

    def of(values: list[float | None], quantity: str) -> list[float | None]:
        return [in_unit(v, quantity) if v is not None else None for v in values]

    what = "Bowl" if study.brief.carbureted else "Rail"
    pressures = [
        CurveLine("target", of([r.asked for r in rows], "pressure"), "thin", dashed=True),
        CurveLine(what.lower(), of([r.rail for r in rows], "pressure")),
    ]
    rail = make_curve_chart(
        "rail", f"{what} over power", along, unit_of("pressure"), power, pressures
    )
    share_lines = [
        CurveLine("open", of([r.duty for r in rows], "fraction")),
        CurveLine("limit", of([r.duty_limit for r in rows], "fraction"), "thin", dashed=True),
    ]
    if any(r.headroom is not None for r in rows):
        share_lines.append(
            CurveLine(
                "headroom",
                of(
                    [
                        min(r.headroom, SPARE_SHOWN) if r.headroom is not None else None
                        for r in rows
                    ],
                    "fraction",
                ),
                "amber",
            )
        )
    title = f"{'Needles' if study.brief.carbureted else 'Injectors'} open{', pump headroom' if len(share_lines) > TWO else ''}, over power"
    shares = make_curve_chart("shares", title, along, "%", power, share_lines)
    amps = (
        make_curve_chart(
            "amps",
            "Pumps' current over power",
            along,
            "A",
            power,
            [CurveLine("pumps", [r.amps for r in rows])],
        )
        if any(r.amps for r in rows)
        else None
    )
    return [rail, shares, amps]


def _over_speed(study: Study) -> list[CurveChart]:
    """A pull at full load over engine speed: pumps on the engine and stages go along."""
    pulls = dyno_card(study, PULL)
    if all(p.shows is None for p in pulls):
        return []
    rpm, what = [p.rpm for p in pulls], "bowl" if study.brief.carbureted else "rail"

    def of(values: list[float | None], quantity: str) -> list[float | None]:
        return [in_unit(v, quantity) if v is not None else None for v in values]

    pressures = [
        CurveLine("target", of([p.asked for p in pulls], "pressure"), "thin", dashed=True),
        CurveLine(what, of([p.shows for p in pulls], "pressure")),
    ]
    flows = [
        CurveLine("demand", of([p.fuel_demand for p in pulls], "volume_flow"), "amber"),
        CurveLine("returns", of([p.returns for p in pulls], "volume_flow"), "own"),
    ]
    return [
        make_curve_chart(
            "pull",
            f"{what.capitalize()} over engine speed at full load",
            "rpm",
            unit_of("pressure"),
            rpm,
            pressures,
        ),
        make_curve_chart(
            "returns",
            "Demand and bypass over engine speed",
            "rpm",
            unit_of("volume_flow"),
            rpm,
            flows,
        ),
    ]


PULL = tuple(round(0.2 + 0.05 * i, 2) for i in range(20))  # of the speed at peak power
TWO = 2
SPARE_SHOWN = 2.0  # more headroom than that is drawn as that
