"""The stand-in car and logger: a build driven on an invented run, its sensors with their noise, and
faults one can switch on. Nothing outside is asked; everything it writes is made up.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from tall_heron.core.base.catalogue import table
from tall_heron.core.base.constants import CELSIUS, KPA
from tall_heron.core.document.build import Build
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.figures import Injectors, PumpMap, Quadratic, Regulator
from tall_heron.core.hydraulics.compile import injectors_full_flow
from tall_heron.core.physics.slosh import Array
from tall_heron.core.prove.faults import Fault, at_flow, causes
from tall_heron.core.prove.predict import Predictor, Setup
from tall_heron.core.study.cases.cases import USUAL_RPM
from tall_heron.core.study.cases.injector_duty import dead_time
from tall_heron.core.study.study import Study, make_study
from tall_heron.core.study.what_if import current_of

USUAL_BASE = 300e3  # Pa, that strengths of causes.csv are for
PLAY = 0.03  # of the demand at peak, by which it must turn before a regulator that sticks feels it
LEAN_FROM, LEAN_SHARE = (
    20.0,
    0.85,
)  # kPa under the air at which the mixture is lean, and how much is burnt then of what it would be


@dataclass(frozen=True)
class Noise:
    """What sensors stray by, one standard deviation: rail and manifold [Pa], volts, duty [-],
    current [A], speed [rpm], acceleration [g], ethanol [-].
    """

    rail: float = 1500.0
    manifold: float = 800.0
    volts: float = 0.03
    duty: float = 0.004
    amps: float = 0.15
    rpm: float = 8.0
    ahead: float = 0.02
    ethanol: float = 0.006

    def times(self, x: float) -> "Noise":
        """The same, so many times as loud."""
        return Noise(
            *(
                x * v
                for v in (
                    self.rail,
                    self.manifold,
                    self.volts,
                    self.duty,
                    self.amps,
                    self.rpm,
                    self.ahead,
                    self.ethanol,
                )
            )
        )


@dataclass(frozen=True)
class LogRow:
    """One row of a log, in SI, pressures [Pa gauge], speed [rpm], acceleration [g]; what nothing
    measures is None.
    """

    time: float
    rpm: float
    manifold: float
    rail: float
    volts: float
    duty: float | None
    ethanol: float | None
    kelvin: float
    amps: float | None
    ahead: float


HEADERS = (
    "time (s)",
    "engine speed (rpm)",
    "manifold (kPa abs)",
    "rail (kPa)",
    "battery (V)",
    "duty (%)",
    "ethanol (%)",
    "fuel temperature (C)",
    "pump current (A)",
    "ahead (g)",
)


def peak_rpm(study: Study) -> float:
    """The speed at peak power [rpm], or the usual one."""
    return study.brief.peak_rpm or USUAL_RPM["flight" if study.brief.use == "flight" else "road"]


def wanted_demand(study: Study, rpm: Array | float, manifold: Array | float) -> Array:
    """What the engine asks at speeds and pressures of the manifold [rpm, Pa gauge], by the air it
    takes in and a mixture that is lean at part load [m3/s].
    """
    air = study.peak.case.point.atmosphere
    rich = np.where(
        (np.asarray(manifold) < -LEAN_FROM * KPA) & (not study.brief.carbureted), LEAN_SHARE, 1.0
    )
    return np.asarray(
        study.fuel_demand.volume_flow
        * rpm
        / peak_rpm(study)
        * np.maximum(air + manifold, 0.0)
        / (air + study.brief.boost)
        * rich
    )


def full_flow(study: Study) -> float:
    """What all injectors pass fully open at the pressure they are commanded for [m3/s]; 0 where
    they are none or their sheet does not say.
    """
    sets = [
        e.figures
        for e in study.build.circuit.of_kind("injectors")
        if isinstance(e.figures, Injectors) and e.figures.rated_lph
    ]
    return float(
        sum(
            injectors_full_flow(p, p.commanded_at_kpa * KPA, study.fuel_demand.density)
            for p in sets
        )
    )


def dead_share_at(study: Study, rpm: Array | float, volts: Array | float) -> Array:
    """The share of two turns that injectors take to open at speeds and volts [-]; 0 where their
    sheet does not say.
    """
    element = next(iter(study.build.circuit.of_kind("injectors")), None)
    at_12, at_14 = (
        (dead_time(element, v) or 0.0) if element is not None else 0.0 for v in (12.0, 14.0)
    )
    return np.asarray(
        np.maximum(at_12 + (np.asarray(volts) - 12.0) / 2.0 * (at_14 - at_12), 0.0) * rpm / 120
    )


def turning(fuel_demand: Array, play: float) -> Array:
    """Which way the demand last went, with some play: -1 falling, 1 rising, 0 until it first moved."""
    out, edge, way = (
        np.zeros(len(fuel_demand), int),
        float(fuel_demand[0]) if len(fuel_demand) else 0.0,
        0,
    )
    for i, q in enumerate(fuel_demand.tolist()):
        edge, way = turned(q, edge, way, play)
        out[i] = way
    return out


def turned(q: float, edge: float, way: int, play: float) -> tuple[float, int]:
    """The furthest that a demand has come since it last turned, and which way that was, with the next
    burn.
    """
    if abs(q - edge) > play and (q > edge) != (way == 1):
        return q, 1 if q > edge else -1
    return (max(q, edge), way) if way == 1 else (min(q, edge), way) if way == -1 else (edge, way)


def switchable(study: Study) -> list[Fault]:
    """Faults that one can switch on in a car: of each kind the one that shows most, all pumps worn
    and the finest filter clogged among them, as strong as its row of causes.csv says.
    """
    out: dict[str, Fault] = {}
    for cause in (
        c for c in causes(study) if c.fault.kind != "can"
    ):  # nothing is caught in a car that drives
        row = cause.fault.row
        finest = cause.fault.kind == "clogged" and study.build.circuit.element(
            cause.fault.part
        ) in study.build.circuit.of_kind("filter")
        if cause.fault.kind not in out or finest or len(cause.fault.part.split()) > 1:
            # A screw of a carburetor's regulator is not turned by more than it holds.
            times = (
                min(study.brief.base / USUAL_BASE, 1.0)
                if row["quantity"] == "pressure_difference" and cause.fault.kind != "pinched"
                else 1.0
            )
            out[cause.fault.kind] = cause.fault.of(times * float(str(row["switched"])))
    return list(out.values())


def varied(build: Build, seed: int) -> Build:
    """A build as it stands on the floor: pumps, filters and screws within the tolerances of their
    sheets.
    """
    rng = np.random.default_rng(seed)
    out: list[Element] = []
    for e in build.circuit.elements:
        part = e.figures
        if isinstance(part, PumpMap):
            times = 1 + 0.015 * float(rng.standard_normal())
            out.append(e.model_copy(update={"figures": at_flow(part, times)}))
        elif isinstance(part, Quadratic):
            times = 1 + 0.05 * float(rng.standard_normal())
            out.append(
                e.model_copy(
                    update={
                        "figures": part.model_copy(
                            update={
                                "a_kpa_per_lph": part.a_kpa_per_lph * times,
                                "b_kpa_per_lph2": part.b_kpa_per_lph2 * times,
                            }
                        )
                    }
                )
            )
        elif isinstance(part, Regulator):
            out.append(
                e.model_copy(
                    update={
                        "figures": part.model_copy(
                            update={
                                "set_kpa": part.set_kpa * (1 + 0.007 * float(rng.standard_normal()))
                            }
                        )
                    }
                )
            )
        else:
            out.append(e)
    return build.model_copy(update={"circuit": build.circuit.model_copy(update={"elements": out})})


def drive(
    build: Build,
    fault: Fault,
    seed: int,
    noise: Noise | None = None,
    hertz: float = 10.0,
    laps: int = 1,
    like: Study | None = None,
) -> Iterator[LogRow]:
    """The rows of a run, one after another, with a fault switched on. The car is the build with its
    parts within their tolerances.
    """
    study = like or make_study(varied(build, seed))
    predictor, rng, loud = Predictor(study), np.random.default_rng(seed + 1), noise or Noise()
    brief, top, full = study.brief, peak_rpm(study), full_flow(study)
    sniffs = study.fuel_demand.fuel.ethanol > 0.2  # such a car has a sensor of ethanol
    flown = brief.use == "flight"
    # How long each piece of the drive takes [s]; at its end the share of the speed at peak, how far
    # the manifold is from idle to full load, and the acceleration ahead [g].
    pieces = [
        (float(r["seconds"]), float(r["speed"]), float(r["load"]), float(r["ahead"]))
        for r in table("drives")
        if (r["name"] == "air") == flown
    ]
    script = pieces * laps
    idle_kpa, most_kpa = brief.idle_manifold_kpa * KPA, brief.boost
    at = next(
        (
            e.figures.commanded_at_kpa * KPA
            for e in study.build.circuit.of_kind("injectors")
            if isinstance(e.figures, Injectors)
        ),
        brief.base,
    )
    own = np.random.default_rng(
        seed + 2
    ).standard_normal(
        3
    )  # how this engine breathes, what its pumps draw, what its injectors pass, against what is said of them
    breathes, draws, passes = (
        1 + 0.04 * float(own[0]),
        1 + 0.02 * float(own[1]),
        1 + 0.012 * float(own[2]),
    )
    rpm, manifold, ahead, across, time = 0.15 * top, idle_kpa, 0.0, 0.0, 0.0
    edge, way, warm = 0.0, 0, brief.fuel_temperature
    for seconds, speed, load, push in script:
        steps = max(round(seconds * hertz), 1)
        rpm0, manifold0 = rpm, manifold
        for i in range(steps):
            w = (i + 1) / steps
            rpm = rpm0 + (speed * top - rpm0) * w
            aim = idle_kpa + (most_kpa - idle_kpa) * load
            manifold = manifold0 + (aim - manifold0) * min(2.5 * w, 1.0)  # boost comes before speed
            ahead += (push - ahead) * min(4 / hertz, 1.0)
            volts = brief.voltage_v - (0.5 if rpm < 0.2 * top else 0.0) - 0.3 * load
            asks = (
                float(wanted_demand(study, rpm, manifold)) * predictor.fuel_times(fault) * breathes
            )
            edge, way = turned(asks, edge, way, PLAY * study.fuel_demand.volume_flow)
            commanded = asks * math.sqrt(at / across) if across > 0.2 * at and full else asks
            setup = Setup(
                "rail",
                manifold=manifold,
                fuel_demand=commanded,
                volts=volts,
                at_pump=False,
                rpm=rpm,
                ahead=abs(ahead),
                trend=way,
            )
            solution = predictor.solution(setup, fault)
            rail = study.rail_pressure(solution) if solution.converged else None
            amps = (
                sum(current_of(solution, p.id) for p in study.build.circuit.of_kind("pump"))
                if solution.converged
                else 0.0
            )
            rail = 0.0 if rail is None else rail
            across = max(rail - manifold, 0.0)
            pulse = (
                0.004 * brief.base * math.sin(2 * math.pi * (rpm / 60 * brief.cylinders / 2) * time)
            )
            n = rng.standard_normal(8)
            spoilt = (
                250_000.0 * float(rng.standard_normal()) if rng.random() < 0.004 else 0.0
            )  # a loose plug now and then
            rail += (
                (fault.strength if fault.kind == "gauge" else 0.0)
                + pulse
                + loud.rail * n[2]
                + spoilt
            )
            yield LogRow(
                round(time, 4),
                max(rpm + loud.rpm * n[0], 0.0),
                manifold + loud.manifold * n[1],
                rail,
                volts + loud.volts * n[3],
                max(
                    commanded / (full * passes)
                    + float(dead_share_at(study, rpm, volts))
                    + loud.duty * n[4],
                    0.0,
                )
                if full
                else None,
                max(
                    (fault.strength if fault.kind == "fuel" else study.fuel_demand.fuel.ethanol)
                    + loud.ethanol * n[5],
                    0.0,
                )
                if sniffs
                else None,
                warm,
                amps * draws + loud.amps * n[6] if amps else None,
                ahead + loud.ahead * n[7],
            )
            time += 1 / hertz


def row_text(row: LogRow, air: float, mark: str = ",") -> str:
    """A row of the logger's file."""

    def cell(value: float | None, decimals: int) -> str:
        return "" if value is None else f"{value:.{decimals}f}"

    duty = None if row.duty is None else 100 * row.duty
    share = None if row.ethanol is None else 100 * row.ethanol
    cells = [
        cell(row.time, 3),
        cell(row.rpm, 0),
        cell((row.manifold + air) / KPA, 1),
        cell(row.rail / KPA, 1),
        cell(row.volts, 2),
    ]
    cells += [
        cell(duty, 1),
        cell(share, 1),
        cell(row.kelvin - CELSIUS, 1),
        cell(row.amps, 2),
        cell(row.ahead, 3),
    ]
    return mark.join(cells)


def drive_text(
    build: Build,
    fault: Fault,
    seed: int,
    noise: Noise | None = None,
    hertz: float = 10.0,
    laps: int = 1,
) -> str:
    """A whole run as the logger's file (RFC 4180)."""
    study = make_study(varied(build, seed))
    air = study.peak.case.point.atmosphere
    return (
        "\r\n".join(
            [
                ",".join(HEADERS),
                *(row_text(r, air) for r in drive(build, fault, seed, noise, hertz, laps, study)),
            ]
        )
        + "\r\n"
    )
