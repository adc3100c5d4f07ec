"""Station 2: every layout that suits, side by side."""

from tall_heron.core.design import Design
from tall_heron.web.station import FINDINGS, HEAD, Page, Station
from tall_heron.web.stations.layout.context import layout_context
from tall_heron.web.stations.layout.routes import pages


def does_not_solve(made: Design) -> bool:
    """Whether nothing can be said of the circuit."""
    return not made.study.peak.solution.converged


STATION = Station(
    key="layout",
    name="Layout",
    place=2,
    blueprints=(pages,),
    pages={
        "layout": Page(
            lambda found, made, _: layout_context(found, made),
            HEAD | {"choices": "stations/layout/choices.jinja"} | FINDINGS,
        )
    },
    undone=does_not_solve,
    scripts=("sizing",),
)
