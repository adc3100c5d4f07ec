"""Station 5: every line in its vehicle, to scale."""

from tall_heron.core.design import Design
from tall_heron.core.document.kinds import LINES
from tall_heron.core.rules import check_route
from tall_heron.web.station import FIGURES, FINDINGS, HEAD, Page, SlowRules, Station
from tall_heron.web.stations.prove import attached
from tall_heron.web.stations.route.context import route_context
from tall_heron.web.stations.route.routes import pages


def not_drawn(made: Design) -> bool:
    """Whether a line is not drawn, or in a stock outline."""
    build = made.study.build
    lines = [e for e in build.circuit.elements if e.kind in LINES]
    return any(
        e.id not in build.space.routes or (e.length is not None and e.length.source == "outline")
        for e in lines
    )


PIECES = {
    "route-tools": "stations/route/tools.jinja",
    "views": "stations/route/views.jinja",
    "route-card": "stations/route/card.jinja",
}
STATION = Station(
    key="route",
    name="Route",
    place=5,
    blueprints=(pages,),
    pages={
        "route": Page(
            lambda found, made, word: route_context(
                found, made, word("line"), word("part"), word("view"), word("zoom"), word("try")
            ),
            HEAD | FIGURES | PIECES | FINDINGS | {"space": "stations/route/space.jinja"},
        )
    },
    undone=not_drawn,
    look=SlowRules(lambda made: made.of_route[0], check_route.known),
    slow=True,
    room={"route.send_picture": attached.MOST_BYTES},
    scripts=("route",),
)
