"""Station 2: every layout that suits, side by side."""

from tall_heron.web.station import FINDINGS, HEAD, Page, Station, does_not_solve
from tall_heron.web.stations.layout.context import layout_context
from tall_heron.web.stations.layout.routes import pages

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
