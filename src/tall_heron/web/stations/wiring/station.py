"""Station 7: what feeds the pumps, volts along the way, the loom, the cut-off."""

from tall_heron.core.design import Design
from tall_heron.core.rules import check_wiring
from tall_heron.web.station import FIGURES, FINDINGS, HEAD, Page, SlowRules, Station
from tall_heron.web.stations.wiring.context import CONTEXTS, view_context, wiring_context
from tall_heron.web.stations.wiring.routes import pages


def not_wired(made: Design) -> bool:
    """Whether nothing is wired."""
    return made.study.build.wiring is None


def _view(view: str) -> Page:
    return Page(
        lambda found, made, _: view_context(found, made, view),
        HEAD | {"wiring-view": "stations/wiring/piece.jinja"},
    )


PIECES = {"drawing": "stations/wiring/schematic.jinja", "wiring-card": "stations/wiring/card.jinja"}
STATION = Station(
    key="wiring",
    name="Wiring",
    place=7,
    blueprints=(pages,),
    pages={
        "wiring": Page(
            lambda found, made, word: wiring_context(found, made, word("part")),
            HEAD | FIGURES | PIECES | FINDINGS,
        )
    }
    | {f"wiring {view}": _view(view) for view in CONTEXTS},
    undone=not_wired,
    look=SlowRules(lambda made: made.of_wiring[0], check_wiring.known),
    slow=True,
    scripts=("simulator",),
)
