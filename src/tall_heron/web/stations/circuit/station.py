"""Station 3: the circuit with its pressure walk, its parts and what each alone supports."""

from tall_heron.web.station import DRAWING, FIGURES, FINDINGS, HEAD, Page, Station, does_not_solve
from tall_heron.web.stations.circuit import rework, routes
from tall_heron.web.stations.circuit.context import circuit_context

CASE, CARD = {"case": "stations/circuit/case.jinja"}, {"card": "stations/circuit/card.jinja"}
STATION = Station(
    key="circuit",
    name="Circuit",
    place=3,
    blueprints=(rework.pages, routes.pages),
    pages={
        "circuit": Page(
            lambda found, made, word: circuit_context(
                found, made, word("part"), word("case"), word("try"), word("walk")
            ),
            HEAD | FIGURES | CASE | DRAWING | FINDINGS | CARD,
        )
    },
    undone=does_not_solve,
    keys=(
        ("← →", "along the path"),
        ("↑ ↓", "try what the shelf has"),
        ("Enter Esc", "fit what is tried, put back"),
        ("[ ]", "another case"),
        ("+ −", "drawing larger, smaller; drag to pan"),
        ("W", "show the math"),
    ),
    scripts=("card", "curve"),
)
