"""How the pulses of the injectors meet the feed: the speeds at which they meet a mode of it, and how
far the rail's pressure swings, as it is and with a damper. An indication with an honest width, never
one speed.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import takewhile
from typing import TYPE_CHECKING

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.figures import Pipe
from tall_heron.core.document.kinds import KINDS, PIPES
from tall_heron.core.physics.waves import WaveLine, compliance, impedance, peaks, wave_speed
from tall_heron.core.study.cases.cases import USUAL_RPM
from tall_heron.core.study.cases.injector_duty import doses
from tall_heron.core.study.derived import derived
from tall_heron.core.study.study import Study

if TYPE_CHECKING:  # numpy is loaded only where it pays
    import numpy as np

MODES = 3  # of a feed that are told: higher ones die out
LEAST_HZ, MOST_HZ, STEP_HZ = 1.0, 500.0, 0.5
SLOWEST = 0.12  # of the speed at peak power: below it no engine idles
FASTEST = 1.15
LOADED = 0.4  # of that speed: from here up an engine draws something like the shot of full power
WIDEST = 1.1  # times what stiffness alone moves a mode: past it two modes were taken for one
SPEEDS = 60  # at which the swing is told
STIFFNESSES = 9  # of hoses between the softest and the stiffest, which the swing is the worst of
PASSING = (
    *("filter", "strainer", "rail", "fitting", "damper", "sensor", "valve"),
    "controller",  # stands for the speed of the pump
    *("tee", "split", "merge", "junction"),
)  # short against a wave: what they join is one place


@dataclass(frozen=True)
class ResonanceBand:
    """A mode of the feed: its number, its frequencies and the engine speeds [rpm] that meet it,
    between the softest and the stiffest hoses of their kind.
    """

    mode: int
    hertz: tuple[float, float]
    rpm: tuple[float, float]


@dataclass(frozen=True)
class Swing:
    """How far the rail's pressure swings at full load, from peak to peak [Pa], over engine speeds
    [rpm]: as it is, and with a damper at the rail or, where one is fitted, without it; and the
    `shot` of one event [m3].
    """

    rpm: tuple[float, ...]
    as_is: tuple[float, ...]
    other: tuple[float, ...]
    shot: float

    @property
    def worst(self) -> int:
        """Where it swings most as it is."""
        return max(range(len(self.rpm)), key=lambda i: self.as_is[i])


@dataclass(frozen=True)
class Pulsation:
    """What rings between the last check valves or pumps, the regulator and the ends of the rails:
    the `parts` of it, bands as it is and with a damper at the rail or, where one is fitted, without
    it, whether one is, `events` per turn of the engine, and the speeds the engine runs at [rpm].
    """

    parts: tuple[str, ...]
    bands: tuple[ResonanceBand, ...]
    other: tuple[ResonanceBand, ...]
    has_damper: bool
    events: float
    speeds: tuple[float, float]


@dataclass(frozen=True)
class WaveFeed:
    """The feed as waves see it: what is part of it, the place each part's ports are, where it is
    open to a tank, and where injectors draw.
    """

    parts: tuple[Element, ...]
    place: dict[str, str]
    open_ends: tuple[str, ...]
    drawn_at: tuple[str, ...]

    @property
    def has_damper(self) -> bool:
        """Whether a damper is fitted."""
        return any(e.kind == "damper" for e in self.parts)


@derived("brief", "hydraulics", "wiring", "titles")
def pulsation(study: Study) -> Pulsation | None:
    """The bands of a build with injectors; None without a feed line, or without pulses."""
    brief, feed = study.brief, wave_feed(study)
    if not _pulses(study, feed):
        return None
    bands, other = (
        _bands(study, feed, brief.cylinders, stiffnesses(), damper)
        for damper in (feed.has_damper, not feed.has_damper)
    )
    return Pulsation(
        tuple(e.id for e in feed.parts if e.kind in (*PIPES, "filter", "rail", "damper")),
        bands,
        other,
        feed.has_damper,
        brief.cylinders / 2,
        (SLOWEST * _peak_rpm(study), FASTEST * _peak_rpm(study)),
    )


def _pulses(study: Study, feed: WaveFeed) -> bool:
    return (
        not study.brief.carbureted
        and bool(study.brief.cylinders)
        and any(e.kind in PIPES for e in feed.parts)
    )


def _peak_rpm(study: Study) -> float:
    return study.brief.peak_rpm or USUAL_RPM["flight" if study.brief.use == "flight" else "road"]


def stiffnesses() -> tuple[float, float]:
    """How much stiffer fuel is alone than in the softest and the stiffest hose [-], each 0 to 1."""
    soft, stiff = (
        house_figure(f"heat_hose_{x}_kpa_k") / house_figure("heat_line_kpa_k")
        for x in ("low", "high")
    )
    return soft, stiff


def wave_feed(study: Study) -> WaveFeed:
    """What is joined to the rails by lines and what passes waves on: over branches and past both
    rails, as far as check valves, pumps, regulators and tanks, which are ends.
    """
    circuit = study.build.circuit
    place: dict[str, str] = {}

    def root(node: str) -> str:
        while place.get(node, node) != node:
            node = place[node]
        return node

    for e in circuit.elements:
        if e.kind in PASSING:
            nodes = [e.ports[p] for p in KINDS[e.kind].ports]
            for node in nodes[1:]:
                place[root(node)] = root(nodes[0])
    drawn_at = tuple(dict.fromkeys(root(e.ports["start"]) for e in circuit.of_kind("injectors")))
    pipes = [e for e in circuit.elements if e.kind in PIPES]
    reached = set(drawn_at)
    grows = True
    while grows:
        grows = False
        for e in pipes:
            ends = {root(e.ports["start"]), root(e.ports["end"])}
            if ends & reached and not ends <= reached:
                reached |= ends
                grows = True
    parts = tuple(
        e
        for e in circuit.elements
        if e.kind in (*PIPES, *PASSING) and any(root(n) in reached for n in e.ports.values())
    )
    tanks = {root(e.ports["outlet"]) for e in circuit.of_kind("tank")}
    return WaveFeed(
        parts,
        {n: root(n) for e in parts for n in e.ports.values()},
        tuple(sorted(tanks & reached)),
        drawn_at,
    )


def feed_lines(study: Study, feed: WaveFeed, stiffness: float) -> list[WaveLine]:
    """The hoses and lines of a feed, with hoses so stiff [-]."""
    c, out = sound(study), []
    for e in feed.parts:
        if e.kind in PIPES and isinstance(e.figures, Pipe) and e.length is not None:
            rigid = e.kind == "line"
            out.append(
                WaveLine(
                    feed.place[e.ports["start"]],
                    feed.place[e.ports["end"]],
                    e.length.mm / 1000,
                    math.pi / 4 * (e.figures.bore_mm / 1000) ** 2,
                    wave_speed(c, 1.0 if rigid else stiffness),
                    0.0 if rigid else house_figure("hose_loss_factor"),
                )
            )
    return out


def feed_volumes(study: Study, feed: WaveFeed, damper: bool) -> dict[str, float]:
    """What gives way at each place [m3/Pa]: rails, filters and dampers; with a damper at the rail
    where `damper` and none is fitted, without the fitted one where not `damper`.
    """
    c, density = sound(study), study.fuel_demand.density
    out: dict[str, float] = {}
    give = house_figure("damper_ml_bar") * 1e-11
    for e in feed.parts:
        place = feed.place[next(iter(e.ports.values()))]
        if e.kind in ("rail", "filter"):
            liters = house_figure("rail_volume_l" if e.kind == "rail" else "filter_volume_l")
            out[place] = out.get(place, 0.0) + compliance(liters / 1000, density, c)
        elif e.kind == "damper" and damper:
            out[place] = out.get(place, 0.0) + give
    if damper and not feed.has_damper and feed.drawn_at:
        out[feed.drawn_at[0]] = out.get(feed.drawn_at[0], 0.0) + give
    return out


def _impedance(
    study: Study,
    feed: WaveFeed,
    stiffness: float,
    damper: bool,
    hertz: np.ndarray,
    drawn_at: Sequence[str],
    openings: Mapping[str, float | np.ndarray],
) -> np.ndarray:
    density = study.fuel_demand.density
    viscosity = study.fuel_demand.fuel.viscosity(study.brief.fuel_temperature)
    return abs(
        impedance(
            feed_lines(study, feed, stiffness),
            feed_volumes(study, feed, damper),
            openings,
            feed.open_ends,
            drawn_at,
            hertz,
            density,
            viscosity / density,
        )
    )


def _bands(
    study: Study, feed: WaveFeed, cylinders: int, between: Sequence[float], damper: bool
) -> tuple[ResonanceBand, ...]:
    """Modes that move a rail, each rail felt by itself: what both do against each other counts."""
    import numpy as np

    hertz = np.arange(LEAST_HZ, MOST_HZ, STEP_HZ)
    low, high = (
        peaks(
            hertz,
            np.sum(
                [_impedance(study, feed, s, damper, hertz, [at], {}) for at in feed.drawn_at],
                axis=0,
            ),
        )[:MODES]
        for s in between
    )
    widest = WIDEST * math.sqrt(between[1] / between[0])
    pairs = takewhile(lambda x: x[0] < x[1] < widest * x[0], zip(low, high, strict=False))
    return tuple(
        ResonanceBand(i + 1, (a, b), (120 * a / cylinders, 120 * b / cylinders))
        for i, (a, b) in enumerate(pairs)
    )


def _openings(study: Study, feed: WaveFeed, load: np.ndarray) -> dict[str, float | np.ndarray]:
    """What runs through injectors and regulators answers a quick pressure as an opening does; what
    the injectors pass goes with the load.
    """
    solution, circuit = study.peak.solution, study.build.circuit
    out: dict[str, float | np.ndarray] = {}
    if not solution.converged:
        return {}
    for dose in doses(study, study.peak):
        place = feed.place.get(dose.element.ports["start"], dose.element.ports["start"])
        if dose.across > 0:
            passes = solution.flow(dose.element.id) / (2 * dose.across)
            out[place] = out.get(place, 0.0) + passes * load
    for e in circuit.of_kind("regulator", "relief"):
        across = solution.link(e.id)
        if across is None or not across.loss or across.flow is None or across.loss <= 0:
            continue
        for node in e.ports.values():
            if node in feed.place:
                place = feed.place[node]
                out[place] = out.get(place, 0.0) + abs(across.flow) / (2 * across.loss)
    return out


@derived("brief", "hydraulics", "wiring", "titles")
def rail_swing(study: Study) -> Swing | None:
    """How far the rail swings, None where there is no `pulsation`. At each speed the worst between the softest and the stiffest hoses. The engine is taken to
    draw the shot of peak power at every speed up to there, each injector over its share of the
    cycle; of that train the part that goes with the firing counts, twice over from peak to peak.
    """
    import numpy as np

    feed, cylinders, peak = wave_feed(study), study.brief.cylinders, _peak_rpm(study)
    if not _pulses(study, feed):
        return None
    rpm = np.linspace(LOADED * peak, FASTEST * peak, SPEEDS)
    hertz = rpm * cylinders / 120
    load = np.minimum(rpm / peak, 1.0)
    duty = max((d.duty for d in doses(study, study.peak)), default=0.0)
    # |sin(pi x)/(pi x)| of a train of pulses, as its envelope: their length is not known so well
    opened = math.pi * cylinders * duty * load
    drawn = 2 * study.fuel_demand.volume_flow * load / np.maximum(opened, 1.0)
    openings = _openings(study, feed, load)

    def worst(damper: bool) -> tuple[float, ...]:
        rows = [
            _impedance(study, feed, s, damper, hertz, feed.drawn_at, openings)
            for s in np.linspace(*stiffnesses(), STIFFNESSES)
        ]
        return tuple(float(x) for x in 2 * drawn * np.max(rows, axis=0))

    return Swing(
        tuple(float(x) for x in rpm),
        worst(feed.has_damper),
        worst(not feed.has_damper),
        study.fuel_demand.volume_flow / (cylinders / 2 * peak / 60),
    )


def sound(study: Study) -> float:
    """The speed of sound in the fuel [m/s], by the share of alcohol."""
    fuel, gasoline = study.fuel_demand.fuel, house_figure("sound_petrol_m_s")
    if fuel.methanol:
        return house_figure("sound_methanol_m_s")
    return gasoline + fuel.ethanol * (house_figure("sound_ethanol_m_s") - gasoline)
