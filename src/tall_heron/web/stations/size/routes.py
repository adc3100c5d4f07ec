"""Sizes proposed for a layout: what is looked at streams as it goes, and the whole proposal is
fitted as one act.
"""

import json
from collections.abc import Iterator
from typing import Any, get_args

from flask import Blueprint, Response, render_template, stream_with_context

from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.document.build import Build
from tall_heron.core.shelf.totals import make_totals
from tall_heron.core.sizing.auto_size import By, Progress, Proposal
from tall_heron.core.sizing.chooser import fitted_with
from tall_heron.core.sizing.groups import make_groups
from tall_heron.core.sizing.pump_count import MOST_PUMPS, feeding_pumps, size_any, with_pumps
from tall_heron.web import answers
from tall_heron.web.forms import reading
from tall_heron.web.frame import frame
from tall_heron.web.page_answer import answer

pages = Blueprint("size", __name__)
WORDS = {"cost": "least cost", "mass": "least mass", "current": "least current"}


@pages.get("/builds/<slug>/size")
def page(slug: str) -> str:
    """What would be sized, what is to stay, and by what to choose."""
    found = answers.stored(slug)
    made = answers.designed(found)
    groups = make_groups(made.study, (), answers.own_shelf())
    return render_template(
        "stations/size/size.html", **frame(found, made, "size"), groups=groups, words=WORDS
    )


def _powers(build: Build) -> list[tuple[str, float]]:
    """The powers to size for [kW], each with its word: now, and later where that is asked."""
    assert build.brief is not None
    later = build.brief.later_power_kw
    return [
        ("now", build.brief.power_kw),
        *([("later", later)] if later is not None and later > build.brief.power_kw else []),
    ]


def _chosen(before: Build, after: Build) -> dict[str, Any]:
    """What a proposal changes, as the page sends it back to be fitted: how many pumps, and the part
    for each tag.
    """
    fitted = {e.id: e.shelf for e in before.circuit.elements}
    return {
        "pumps": len(feeding_pumps(after.circuit)),
        "parts": {
            e.id: e.shelf for e in after.circuit.elements if e.shelf and e.shelf != fitted.get(e.id)
        },
    }


@pages.post("/builds/<slug>/size")
def look(slug: str) -> Response:
    """The search, a line of JSON for each report; the last holds the proposals, for now and for
    later side by side.
    """
    data, found = answers.body(), answers.stored(slug)
    by, keep = reading.text_of(data, "by"), data.get("keep")
    if (
        by not in get_args(By)
        or not isinstance(keep, list)
        or not all(isinstance(k, str) for k in keep)
    ):
        raise reading.Refused("by", "Choose by what to size: cost, mass or current.")
    own, build = answers.own_shelf(), found.build

    def proposals() -> Iterator[Progress | tuple[str, float, Proposal]]:
        """For each power there is to size for."""
        for word, power in _powers(build):
            asked = (
                build.model_copy(
                    update={"brief": build.brief.model_copy(update={"power_kw": power})}
                )
                if build.brief is not None
                else build
            )
            for report in size_any(asked, by, keep, own):  # type: ignore[arg-type]
                yield report if isinstance(report, Progress) else (word, power * 1000, report)

    def lines() -> Iterator[str]:
        sized: list[tuple[str, float, Proposal]] = []
        try:
            for report in proposals():
                if isinstance(report, Progress):
                    yield json.dumps(
                        {"looked": report.looked + sum(p.looked for _, _, p in sized)}
                    ) + chr(10)
                else:
                    sized.append(report)
            context: dict[str, Any] = {
                "sized": sized,
                "now": make_totals(build.circuit),
                "then": [make_totals(p.build.circuit) for _, _, p in sized],
            }
            context |= {
                "by": WORDS[by],
                "cleared": [p.clears(answers.designed(found).study) for _, _, p in sized],
                "titles": _titles(build, sized),
                "more": _more_parts(build, sized),
            }
            chosen = {word: _chosen(build, p.build) for word, _, p in sized}
            yield json.dumps(
                {
                    "piece": render_template("stations/size/proposal.jinja", **context),
                    "chosen": chosen,
                }
            ) + chr(10)
        except BuildErrors as errors:
            yield json.dumps({"message": "; ".join(e.message for e in errors.errors)}) + chr(10)

    return Response(stream_with_context(lines()), mimetype="application/x-ndjson")


def _titles(build: Build, sized: list[tuple[str, float, Proposal]]) -> dict[str, list[str]]:
    """What is fitted and what is proposed, by the tags that are sized together in any proposal: a
    title each, empty where there is no such part.
    """
    rows: dict[str, list[str]] = {}
    for ids in dict.fromkeys(i for _, _, p in sized for r in p.rows for i in r.ids):
        each = [build, *(p.build for _, _, p in sized)]
        rows[ids] = [
            (e.title or e.kind) if (e := b.circuit.element(ids)) is not None else "" for b in each
        ]
    return rows


def _more_parts(
    build: Build, sized: list[tuple[str, float, Proposal]]
) -> dict[str, tuple[list[str], list[str]]]:
    """What comes and what goes with another number of pumps, by the word of the power."""
    before = {e.id for e in build.circuit.elements}
    return {
        word: (
            sorted({e.id for e in p.build.circuit.elements} - before),
            sorted(before - {e.id for e in p.build.circuit.elements}),
        )
        for word, _, p in sized
    }


@pages.post("/builds/<slug>/size/fit")
def fit_all(slug: str) -> Response:
    """Fit a whole proposal as one act."""
    data = answers.body()
    chosen = data.get("chosen")
    parts, pumps = (
        (chosen.get("parts"), chosen.get("pumps")) if isinstance(chosen, dict) else (None, None)
    )
    if (
        not isinstance(parts, dict)
        or not all(isinstance(v, str) for v in parts.values())
        or not isinstance(pumps, int)
        or not 0 <= pumps <= MOST_PUMPS
    ):
        raise reading.Refused("chosen", "There is nothing to fit.")
    own = answers.own_shelf()

    def make(build: Build) -> tuple[Build, str]:
        before = len(feeding_pumps(build.circuit))
        new = with_pumps(build, pumps) if pumps != before else build
        if new is None:
            raise reading.Refused("chosen", f"The pumps of this circuit cannot be made {pumps}.")
        new = fitted_with(new, parts, own)
        number = f"{pumps} pumps for {before}, " if pumps != before else ""
        return new, f"Sized: {number}{', '.join(parts)}"

    return answer(answers.act(slug, data, make, "chosen"), {"page": "circuit"})
