"""At which engine speeds the pulses of the injectors meet a mode of the feed line: an indication
with an honest width, never one speed.
"""

import math
from dataclasses import dataclass

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.figures import Pipe
from tall_heron.core.document.kinds import PIPES
from tall_heron.core.physics.waves import Volume, WaveLine, compliance, modes, wave_speed
from tall_heron.core.study.cases.cases import USUAL_RPM
from tall_heron.core.study.derived import derived
from tall_heron.core.study.study import Study

MODES = 3  # of a row that are told: higher ones die out
MOST_HZ = 500.0
SLOWEST = 0.12  # of the speed at peak power: below it no engine idles
FASTEST = 1.15


@dataclass(frozen=True)
class ResonanceBand:
    """A mode of the feed: its number, its frequencies and the engine speeds [rpm] that meet it,
    between the softest and the stiffest hoses of their kind.
    """

    mode: int
    hertz: tuple[float, float]
    rpm: tuple[float, float]


@dataclass(frozen=True)
class Pulsation:
    """What rings between the last check valve or pump and the end of the rail: the `parts` of it,
    bands as it is and with a damper at the rail, whether one is fitted, `events` per turn of the
    engine, and the speeds the engine runs at [rpm].
    """

    parts: tuple[str, ...]
    bands: tuple[ResonanceBand, ...]
    damped: tuple[ResonanceBand, ...]
    has_damper: bool
    events: float
    speeds: tuple[float, float]


def pulsation(study: Study) -> Pulsation | None:
    """The bands of a build with injectors; None without a feed line, or without pulses."""
    return _pulsation(study)


@derived("brief", "hydraulics", "wiring", "titles")
def _pulsation(study: Study) -> Pulsation | None:
    brief = study.brief
    row = feed_row(study)
    if brief.carbureted or not brief.cylinders or not any(e.kind in PIPES for e in row):
        return None
    has = any(e.kind == "damper" for e in row)
    speeds = tuple(
        x * (brief.peak_rpm or USUAL_RPM["flight" if brief.use == "flight" else "road"])
        for x in (SLOWEST, FASTEST)
    )
    bands = _bands(study, row, brief.cylinders, damper=False)
    damped = _bands(study, row, brief.cylinders, damper=True)
    return Pulsation(
        tuple(e.id for e in row), bands, damped, has, brief.cylinders / 2, (speeds[0], speeds[1])
    )


def feed_row(study: Study) -> list[Element]:
    """What stands in the feed between the last pump or check valve and the end of the rail."""
    """The parts on the path from behind the last pump or check valve to where the rail ends: a regulator holds its pressure, and is closed for what is quicker."""
    columns = study.path.columns[: max(study.path.turn, 1)]
    start = max(
        (i for i, c in enumerate(columns) if c.elements[0].kind in ("pump", "check")), default=-1
    )
    return [
        c.elements[0]
        for c in columns[start + 1 :]
        if c.elements[0].kind not in ("regulator", "relief")
    ]


def _bands(
    study: Study, row: list[Element], cylinders: int, damper: bool
) -> tuple[ResonanceBand, ...]:
    soft, stiff = (
        house_figure(f"heat_hose_{x}_kpa_k") / house_figure("heat_line_kpa_k")
        for x in ("low", "high")
    )
    low, high = (
        modes(made_row(study, row, s, damper), study.fuel_demand.density, MOST_HZ)[:MODES]
        for s in (soft, stiff)
    )
    return tuple(
        ResonanceBand(i + 1, (a, b), (120 * a / cylinders, 120 * b / cylinders))
        for i, (a, b) in enumerate(zip(low, high, strict=False))
    )


def sound(study: Study) -> float:
    """The speed of sound in the fuel [m/s], by the share of alcohol."""
    fuel, gasoline = study.fuel_demand.fuel, house_figure("sound_petrol_m_s")
    if fuel.methanol:
        return house_figure("sound_methanol_m_s")
    return gasoline + fuel.ethanol * (house_figure("sound_ethanol_m_s") - gasoline)


def made_row(
    study: Study, row: list[Element], stiffness: float, damper: bool
) -> list[WaveLine | Volume]:
    """The feed as lines and volumes, with hoses so stiff [-], and a damper where one is asked for."""
    c, density = sound(study), study.fuel_demand.density
    out: list[WaveLine | Volume] = []
    for e in row:
        if e.kind in PIPES and isinstance(e.figures, Pipe) and e.length is not None:
            area = math.pi / 4 * (e.figures.bore_mm / 1000) ** 2
            out.append(
                WaveLine(
                    e.length.mm / 1000, area, wave_speed(c, 1.0 if e.kind == "line" else stiffness)
                )
            )
        elif e.kind in ("rail", "filter"):
            liters = house_figure("rail_volume_l" if e.kind == "rail" else "filter_volume_l")
            out.append(Volume(compliance(liters / 1000, density, c)))
        elif e.kind == "damper":
            out.append(Volume(house_figure("damper_ml_bar") * 1e-11))
    if damper and not any(e.kind == "damper" for e in row):
        out.append(Volume(house_figure("damper_ml_bar") * 1e-11))
    return out
