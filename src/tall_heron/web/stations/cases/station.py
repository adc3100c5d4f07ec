"""Station 4: every moment against every requirement, failures, curves, heat, slosh."""

from tall_heron.core.design import Design
from tall_heron.core.rules import check_cases
from tall_heron.web.station import FINDINGS, HEAD, Page, SlowRules, Station
from tall_heron.web.stations.cases import routes, run_routes
from tall_heron.web.stations.cases.context import cases_context


def does_not_solve(made: Design) -> bool:
    """Whether nothing can be said of the circuit."""
    return not made.study.peak.solution.converged


STATION = Station(
    key="cases",
    name="Cases",
    place=4,
    blueprints=(routes.pages, run_routes.pages),
    pages={
        "cases": Page(
            lambda found, made, _: cases_context(found, made),
            HEAD | {"cases-now": "stations/cases/now.jinja"} | FINDINGS,
        )
    },
    undone=does_not_solve,
    look=SlowRules(lambda made: made.of_cases[0], check_cases.known),
    slow=True,
    scripts=("cases",),
)
