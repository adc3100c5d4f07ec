"""What a drawn line costs against a straight one between the same ends."""

from dataclasses import dataclass

from tall_heron.core.base.arithmetic import Why
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.figures import Pipe
from tall_heron.core.hydraulics.compile import pipe_coefficient
from tall_heron.core.routing.laid import LaidLine
from tall_heron.core.routing.vectors import size, subtract_vectors
from tall_heron.core.study.study import Solved, Study
from tall_heron.core.study.what_if import Fitted

LEAST_MM = 1.0


@dataclass(frozen=True)
class RouteCost:
    """What a line takes more than a straight one [Pa], what the engine could burn less [W], and how
    that comes about; None where either does not solve or the line carries no fuel.
    """

    pressure: float
    power: float
    why: Why


def straightened(line: LaidLine) -> Element:
    """The line as if it lay straight between its seats."""
    e = line.element
    assert e.length is not None
    straight = max(
        size(subtract_vectors(line.run.other.port.seat, line.run.one.port.seat)), LEAST_MM
    )
    return e.model_copy(
        update={
            "length": e.length.model_copy(
                update={"mm": min(straight, e.length.mm), "bends_loss_coefficient": 0.0}
            )
        }
    )


def route_cost(study: Study, line: LaidLine) -> RouteCost | None:
    """What a line costs at peak against the straight one."""
    e = line.element
    if (
        not isinstance(e.figures, Pipe)
        or not e.ports
        or e.length is None
        or not study.peak.solution.converged
    ):
        return None
    other = straightened(line)
    what_if = study.what_if.changed(Fitted(other))
    peak = Solved(study.peak.case, what_if.at(study.peak.case.point, study.peak.case.demand))
    if not peak.solution.converged:
        return None
    now, then = study.friction(study.peak, e.id), study.friction(peak, e.id)
    feeding = study.feed_path
    more = 0.0
    if study.tells_surplus:
        more = (feeding.burnt(peak.solution) + feeding.surplus(peak.solution)) - (
            feeding.burnt(study.peak.solution) + feeding.surplus(study.peak.solution)
        )
    power = study.brief.power * more / study.peak.case.demand if study.peak.case.demand > 0 else 0.0
    flow = study.peak.solution.flow(e.id) * 3.6e6
    steps = (
        f"As it runs: {e.length.mm:,.0f} mm at {flow:,.0f} L/h, K of its ends, adapters and bends {pipe_coefficient(e):.2f}, pressure drop {now / 1000:,.2f} kPa at peak.",
        f"Straight from seat to seat: {other.length.mm if other.length else 0:,.0f} mm, no bends, K {pipe_coefficient(other):.2f}, would drop {then / 1000:,.2f} kPa.",
    )
    return RouteCost(
        now - then,
        power,
        Why(
            steps,
            "Solved twice at peak; the power is what more the pumps could feed at the same pressure.",
        ),
    )
