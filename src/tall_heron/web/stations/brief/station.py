"""Station 1: what the engine is and what is asked of it."""

from tall_heron.web.station import DRAWING, FIGURES, FINDINGS, HEAD, Page, Station
from tall_heron.web.stations.brief.context import brief_context
from tall_heron.web.stations.brief.routes import pages

PIECES = {
    "said": "stations/brief/said.jinja",
    "burn": "stations/brief/burn.jinja",
    "fuels": "stations/brief/fuels.jinja",
}
STATION = Station(
    key="brief",
    name="Brief",
    place=1,
    blueprints=(pages,),
    pages={
        "brief": Page(
            lambda found, made, word: brief_context(found, made, bool(word("fuels"))),
            HEAD | FIGURES | DRAWING | FINDINGS | PIECES,
            on_demand=frozenset({"fuels"}),
        )
    },
    scripts=("fields",),
)
