"""What may be wrong with a build that is there: each cause is one change of the circuit with one
strength.
"""

import itertools
import math
import re
from dataclasses import dataclass, replace

from tall_heron.core.base.catalogue import by_name
from tall_heron.core.document.circuit import Circuit, Element
from tall_heron.core.document.figures import Displacement, Pipe, PumpMap, Regulator
from tall_heron.core.document.kinds import FILTERS
from tall_heron.core.editing.wiring import electric_pumps
from tall_heron.core.physics.pump import make_curve
from tall_heron.core.study.study import Study

PINCHED_LEAST = 2000.0  # Pa, of which a share is what a return is never known better than
BARE_WITHIN = 0.3  # g beyond which a bare pickup draws as much air as it ever does
BARE_AIR = 0.6  # of what a pump draws at a bare pickup, common practice


@dataclass(frozen=True)
class Fault:
    """A cause: its `kind` (a row of causes.csv), the part it sits in, and how strong it is, in SI
    as that row says.
    """

    kind: str
    part: str = ""
    strength: float = 1.0

    @property
    def row(self) -> dict[str, object]:
        """Its row of causes.csv."""
        return by_name("causes")[self.kind]

    def of(self, strength: float) -> "Fault":
        """The same, so strong."""
        return replace(self, strength=strength)


@dataclass(frozen=True)
class Cause:
    """What may be looked for in a build: a fault without its strength, the range of that, and what
    it is where nothing is wrong; `sigma` is how far that strays in a sound build, one standard
    deviation, 0 where it does not.
    """

    fault: Fault
    least: float
    most: float
    sound: float
    sigma: float

    @property
    def fixed(self) -> bool:
        """Whether it is there or not, with nothing between."""
        return self.fault.kind == "dead"


def causes(study: Study) -> list[Cause]:
    """All that may be wrong with a build, by its parts."""
    circuit, out = study.build.circuit, []
    pumps = circuit.of_kind("pump")
    for e in circuit.of_kind(*FILTERS):
        out.append(_cause("clogged", e.id))
    for e in pumps:
        out += [_cause("worn", e.id), _cause("strong", e.id), _cause("air", e.id)] + (
            [_cause("dead", e.id)] if len(pumps) > 1 else []
        )
    if len(pumps) > 1:
        every = " ".join(e.id for e in pumps)
        out += [
            replace(_cause("worn", every), sigma=0.0),
            _cause("strong", every),
        ]  # the tolerance of each is there already
    electric = electric_pumps(study.build)
    if electric:
        feeding = " ".join(e.id for e in electric)
        out += [_cause("volts", feeding), _cause("over", feeding)]
        out.append(_cause("bare", " ".join(t.id for t in circuit.of_kind("tank"))))
    if (home := return_line(study)) is not None:
        out.append(
            _cause(
                "pinched",
                home.id,
                times=max(study.friction(study.solved["idle"], home.id), PINCHED_LEAST)
                if surplus_at_idle(study) > 0
                else PINCHED_LEAST,
            )
        )
    for e in circuit.elements:
        figures = e.figures
        if not isinstance(figures, Regulator) or e.kind == "relief":
            continue
        out.append(_cause("screw", e.id, times=figures.set_kpa * 1000))
        out.append(_cause("sticks", e.id))
        if figures.holds == "inlet" and surplus_at_idle(study) > 0:
            out.append(_cause("slope", e.id))
        if figures.reference in ("manifold", "hat"):
            out.append(_cause("reference", e.id))
    if re.fullmatch(r"E\d+", study.fuel_demand.fuel.name):
        out.append(replace(_cause("fuel", ""), sound=study.fuel_demand.fuel.ethanol))
    out += [_cause("gauge", "", times=gauge_span(study)), _cause("can", "")]
    return out


def _cause(kind: str, part: str, times: float = 1.0) -> Cause:
    row = by_name("causes")[kind]
    return Cause(
        Fault(kind, part),
        float(row["least"]),
        float(row["most"]),
        float(row["sound"]),
        float(row["tolerance"]) * times,
    )


def gauge_span(study: Study) -> float:
    """Full scale of the gauge that such a build is read with [Pa]: the next of the usual ones over
    the highest pressure required.
    """
    asked = study.brief.base + study.brief.boost
    return next(
        (float(x) for x in (1e5, 2e5, 4e5, 7e5, 1e6, 1.6e6, 2.5e6) if x >= 1.2 * asked), 4e6
    )


def return_line(study: Study) -> Element | None:
    """The longest line through which a regulator sends fuel home; None where there is none."""
    lines = [
        e
        for e in study.build.circuit.elements
        if e.role == "return" and isinstance(e.figures, Pipe) and e.length is not None and e.ports
    ]
    return (
        max(lines, key=lambda e: e.length.mm if e.length is not None else 0.0, default=None)
        if study.turns_back
        else None
    )


def surplus_at_idle(study: Study) -> float:
    """What turns back at idle [m3/s]; 0 where idle does not solve."""
    idle = study.solved.get("idle")
    return (
        study.feed_path.surplus(idle.solution)
        if idle is not None and idle.solution.converged
        else 0.0
    )


def changed(study: Study, fault: Fault) -> list[Element]:
    """The elements that a fault makes others; none where it changes the moment or the reading
    alone.
    """
    circuit = study.build.circuit
    if fault.kind == "strong":
        return [airy(circuit, p, 1 - fault.strength) for p in fault.part.split()]
    if fault.kind in ("worn", "air"):
        return [_weaker(study, circuit, replace(fault, part=p)) for p in fault.part.split()]
    if fault.kind == "pinched":
        return [_pinched(study, circuit, fault)]
    if fault.kind == "slope":
        element = _element(circuit, fault.part)
        assert isinstance(element.figures, Regulator)
        steeper = element.figures.slope_kpa_per_lph + fault.strength / 1000 / (
            surplus_at_idle(study) * 3.6e6
        )
        return [
            element.model_copy(
                update={
                    "figures": element.figures.model_copy(update={"slope_kpa_per_lph": steeper})
                }
            )
        ]
    return []


def airy(circuit: Circuit, pump: str, share: float) -> Element:
    """A pump of which a share of the flow is air; of one that gives more than its sheet a share
    below 0.
    """
    element = _element(circuit, pump)
    part = element.figures
    if isinstance(part, Displacement):
        return element.model_copy(
            update={
                "figures": part.model_copy(update={"cc_per_turn": part.cc_per_turn * (1 - share)})
            }
        )
    assert isinstance(part, PumpMap)
    return element.model_copy(update={"figures": at_flow(part, 1 - share)})


def at_flow(part: PumpMap, times: float) -> PumpMap:
    """A map that gives so many times its flow at each pressure."""
    return part.model_copy(
        update={
            "curves": [
                c.model_copy(update={"rows": [[r[0] * times, *r[1:]] for r in c.rows]})
                for c in part.curves
            ]
        }
    )


def _weaker(study: Study, circuit: Circuit, fault: Fault) -> Element:
    if fault.kind == "air":
        return airy(circuit, fault.part, fault.strength)
    element = _element(circuit, fault.part)
    part = element.figures
    if isinstance(part, Displacement):
        return airy(circuit, fault.part, 1 - fault.strength)
    assert isinstance(part, PumpMap)
    kpa = (study.brief.base + study.brief.boost) / 1000
    curves = [
        c.model_copy(update={"rows": leaking(c.rows, kpa, 1 - fault.strength)}) for c in part.curves
    ]
    return element.model_copy(update={"figures": part.model_copy(update={"curves": curves})})


def leaking(rows: list[list[float]], kpa: float, share: float) -> list[list[float]]:
    """A map [L/h, kPa, ...] that loses a share of its flow at a pressure to a leak within, which
    goes with pressure: so its dead-head pressure falls too. Where the map does not reach
    the pressure, the share is of its flow at half of what it reaches.

    >>> [[round(x) for x in row] for row in leaking([[0, 800], [100, 400], [150, 0]], 400, 0.2)]
    [[0, 667], [80, 400], [150, 0]]
    """
    top = rows[0][1]
    kpa = kpa if kpa < 0.95 * top else top / 2
    by_pressure = make_curve([-r[1] for r in rows], [r[0] for r in rows], "linear")
    leak = share * by_pressure.at(-kpa)[0] / kpa  # L/h per kPa
    moved = [[r[0] - leak * r[1], *r[1:]] for r in rows]
    points = [moved[0], *(b for a, b in itertools.pairwise(moved) if b[0] > a[0])]
    if points[0][0] < 0:
        i = next((i for i, r in enumerate(points) if r[0] > 0), len(points) - 1)
        a, b = points[i - 1], points[i]
        w = -a[0] / (b[0] - a[0]) if b[0] > a[0] else 0.0
        points = [[0.0, *(x + w * (y - x) for x, y in zip(a[1:], b[1:], strict=True))], *points[i:]]
    return points


def _pinched(study: Study, circuit: Circuit, fault: Fault) -> Element:
    """K is such that the line takes so much more with what turns back at idle."""
    element = _element(circuit, fault.part)
    part = element.figures
    assert isinstance(part, Pipe)
    idle = study.solved["idle"].solution
    flow = abs(idle.flow(element.id)) or 1e-5
    speed = flow / (math.pi * (part.bore_mm / 1000) ** 2 / 4)
    more = fault.strength / (idle.density * speed**2 / 2)
    return element.model_copy(
        update={
            "figures": part.model_copy(update={"loss_coefficient": part.loss_coefficient + more})
        }
    )


def _element(circuit: Circuit, part: str) -> Element:
    faulty = circuit.element(part)
    assert faulty is not None, part
    return faulty
