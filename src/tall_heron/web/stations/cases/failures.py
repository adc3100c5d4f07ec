"""What the page of failures shows: each single failure, what it leaves, and one of them drawn on
the circuit.
"""

from typing import Any

from tall_heron.core.design import Design
from tall_heron.core.study.failures.failure_walk import (
    Outcome,
    pairs,
    seen_failing,
    sensor_for,
    walk,
)
from tall_heron.web.answers import Stored
from tall_heron.web.drawing.circuit.circuit import draw_circuit
from tall_heron.web.frame import frame


def listed(outcomes: list[Outcome], which: str) -> list[Outcome]:
    """The failures that stop the engine, that nobody would notice, or that spill."""
    return [
        o
        for o in outcomes
        if (which == "stops" and o.stops)
        or (which == "silent" and o.silent)
        or (which == "spills" and o.spills)
    ]


def failures_context(found: Stored, made: Design, wanted: str) -> dict[str, Any]:
    """Everything the page shows; `wanted` is the failure to draw, the worst that is not seen, or
    else the first, where none is asked for.
    """
    study = made.study
    outcomes = walk(study)
    silent = (
        [o for o in outcomes if o.silent and (o.spills or o.starves)]
        or [o for o in outcomes if o.starves or o.spills]
        or outcomes
    )
    chosen = next((o for o in outcomes if o.failure.key == wanted), silent[0] if silent else None)
    failed = seen_failing(study, chosen.failure.key) if chosen is not None else None
    shown: dict[str, Any] = {}
    if chosen is not None and failed is not None:
        solved = failed.solved[chosen.failure.key]
        shown = {"solved": solved, "d": draw_circuit(failed, solved, [], chosen.failure.part)}
    return frame(found, made, "cases") | {
        "view": "failures",
        "outcomes": outcomes,
        "chosen": chosen,
        "sensors": {
            o.failure.part: sensor_for(study.build.circuit, o.failure.part) for o in outcomes
        },
        "pairs": pairs(study) if study.brief.use == "flight" else [],
        "asked": study.asked(study.peak),
        "trouble": ""
        if study.peak.solution.converged
        else f"The peak itself does not solve. {study.peak.solution.part}: {study.peak.solution.reason}.",
        **shown,
    }
