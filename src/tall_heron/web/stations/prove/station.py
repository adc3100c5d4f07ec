"""Station 8: tests of the build, runs, the log that only grows, the signature."""

from tall_heron.core.design import Design
from tall_heron.core.prove.log_head import MOST_BYTES as MOST_LOG
from tall_heron.web.station import HEAD, Page, Station
from tall_heron.web.stations.prove import attached, live_routes, proving, routes, run_routes
from tall_heron.web.stations.prove.context import CONTEXTS, tests_context, view_context


def always(_: Design) -> bool:
    """What is not proved is no pass, whatever is found."""
    return True


def _view(view: str) -> Page:
    return Page(
        lambda found, made, _: view_context(found, made, view),
        HEAD | {"prove-view": f"stations/prove/{view}.jinja"},
    )


PIECES = {
    "prove-figures": "stations/prove/figures.jinja",
    "prove-tests": "stations/prove/tests.jinja",
    "prove-card": "stations/prove/card.jinja",
}
STATION = Station(
    key="prove",
    name="Prove",
    place=8,
    blueprints=(routes.pages, run_routes.pages, live_routes.pages),
    pages={
        "prove": Page(
            lambda found, made, word: tests_context(found, made, word("part")), HEAD | PIECES
        )
    }
    | {f"prove {view}": _view(view) for view in CONTEXTS},
    undone=always,
    slow=True,
    room={"prove.send_file": attached.MOST_BYTES, "prove_runs.bring_log": MOST_LOG},
    keys=(("R", "the next test"),),
    scripts=("prove", "live", "replay"),
    after=proving.give_back,
)
