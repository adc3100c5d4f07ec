"""Station 4: every moment against every requirement, failures, curves, heat, slosh."""

from tall_heron.core.rules import check_cases
from tall_heron.web.station import FINDINGS, HEAD, Page, SlowRules, Station, does_not_solve
from tall_heron.web.stations.cases import routes, run_routes
from tall_heron.web.stations.cases.context import cases_context

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
