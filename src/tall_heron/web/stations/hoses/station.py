"""Station 6: hoses to cut, connections, orders, what to buy, templates."""

from tall_heron.core.design import Design
from tall_heron.core.document.sources import guesses_of
from tall_heron.web.station import HEAD, Page, Station
from tall_heron.web.stations.hoses.context import CONTEXTS, hoses_context, view_context
from tall_heron.web.stations.hoses.routes import pages


def guessed(made: Design) -> bool:
    """Whether a length or a clocking angle is guessed."""
    guesses = guesses_of(made.study.build.circuit)
    return bool(guesses.lengths or guesses.clocks)


def _view(view: str) -> Page:
    return Page(
        lambda found, made, word: view_context(found, made, view, word),
        HEAD | {"bench-view": f"stations/hoses/{view}.jinja"},
    )


PIECES = {
    "cut-figures": "stations/hoses/cut_figures.jinja",
    "cuts": "stations/hoses/cuts.jinja",
    "rolls": "stations/hoses/rolls.jinja",
    "hose-card": "stations/hoses/hose_card.jinja",
}
STATION = Station(
    key="hoses",
    name="Hoses",
    place=6,
    blueprints=(pages,),
    pages={
        "hoses": Page(
            lambda found, made, word: hoses_context(found, made, word("hose")), HEAD | PIECES
        )
    }
    | {f"hoses {view}": _view(view) for view in CONTEXTS},
    undone=guessed,
    scripts=("shop",),
)
