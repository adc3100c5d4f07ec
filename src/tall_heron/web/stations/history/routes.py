"""The record of a build: its revisions by the names of their acts, variants, and two of them side
by side.
"""

from typing import Any

from flask import Blueprint, abort, g, jsonify, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.design import design
from tall_heron.core.document.build import Build, load
from tall_heron.core.document.compare import brief_differences, part_differences
from tall_heron.core.fixing.fixes import key_of
from tall_heron.core.shelf.totals import make_totals
from tall_heron.store import builds
from tall_heron.web import answers
from tall_heron.web.drawing.circuit.sketch import draw_sketch
from tall_heron.web.forms import reading
from tall_heron.web.forms.brief import FIELDS, field_text
from tall_heron.web.frame import frame
from tall_heron.web.show.figures import head_figures
from tall_heron.web.show.text import money, shown, spelled

pages = Blueprint("history", __name__)
PAGE = 60  # revisions on one page
OTHERS = 30  # builds to lay beside, those started last


@pages.get("/builds/<slug>/history")
def page(slug: str) -> str:
    """Every revision of a build; of one that cannot be trusted or read what can be saved."""
    row = builds.find(g.connection, slug)
    if row is None:
        abort(404)
    try:
        answers.build_of(row)
    except (builds.Altered, BuildErrors) as wrong:
        return _saved(row, wrong)
    return _page(answers.stored(slug))


def _saved(row: Any, wrong: Exception) -> str:
    sound = builds.sound_revisions(g.connection, row["id"])
    return render_template(
        "stations/history/saved.html",
        row=row,
        wrong=builds.ALTERED if isinstance(wrong, builds.Altered) else str(wrong),
        revisions=[(r, sound[r["id"]]) for r in builds.revisions(g.connection, row["id"])],
    )


def _page(found: answers.Stored, wrong: str = "", typed: str = "") -> str:
    at = max(reading.whole(request.args.get("page")), 1)
    rows = builds.revisions(g.connection, found.row["id"], (at - 1) * PAGE, PAGE + 1)
    words = " ".join(request.args.get("q", "").split())[:80]
    listed = builds.page(g.connection, 0, OTHERS + 2, words, "newest")
    others = [(r["slug"], r["name"]) for r in listed if r["slug"] != found.row["slug"]]
    context = frame(found, answers.designed(found), "history")
    return render_template(
        "stations/history/history.html",
        revisions=rows[:PAGE],
        at=at,
        earlier=len(rows) > PAGE,
        others=others[:OTHERS],
        more=len(others) > OTHERS,
        words=words,
        wrong=wrong,
        typed=typed,
        **context,
    )


@pages.get("/builds/<slug>/head")
def head(slug: str) -> Response:
    """Which revision of a build holds, for a page that looks whether somebody has changed it."""
    row = builds.head(g.connection, slug)
    if row is None:
        abort(404)
    return jsonify(head=row["head"], act=row["act"])


@pages.post("/builds/<slug>/back")
def back(slug: str) -> Response:
    """Take an older revision up again, as a new one: nothing that came after is lost."""
    row = builds.find(g.connection, slug)
    old = builds.revision(g.connection, reading.whole(request.form.get("revision")))
    if row is None or old is None or old["build"] != row["id"]:
        abort(404)
    try:
        document = builds.document_of(old)
    except builds.Altered:
        abort(409, "That revision is damaged itself. Take an older one.")
    if document != row["document"]:
        try:
            builds.save(
                g.connection, row["id"], row["head"], f"Back to “{old['act'][:80]}”", document
            )
        except builds.ChangedElsewhere:
            abort(
                409,
                "This build was changed elsewhere at the same moment. Look at its history again.",
            )
        except builds.Signed:
            if builds.sound_revisions(g.connection, row["id"])[row["head"]]:
                raise
            # What was signed is damaged and stays as it is; what is sound goes on beside it.
            act = f"Saved from {slug}: “{old['act'][:80]}”"
            slug = builds.create(g.connection, f"{slug} saved", document, act, old["id"])
    return redirect(url_for("circuit.page", slug=slug))


@pages.post("/builds/<slug>/variant")
def variant(slug: str) -> Response | tuple[str, int]:
    """Duplicate a build under another name."""
    found = answers.stored(slug)
    name = request.form.get("name", "").strip()
    if not 1 <= len(name) <= 60:
        return _page(found, "Give the variant a name of 1 to 60 letters.", name[:200]), 422
    return redirect(url_for("circuit.page", slug=answers.duplicated(found, name)))


def _side(given: str) -> tuple[str, Build]:
    """A build by its slug, or one revision by its number: its heading and its document."""
    if number := reading.whole(given):
        old = builds.revision(g.connection, number)
        if old is None:
            abort(404)
        try:
            build = load(builds.document_of(old))
        except (builds.Altered, BuildErrors) as wrong:
            abort(409, f"That revision cannot be trusted: {wrong}.")
        return f"{build.name}: {old['act']}", build
    found = answers.stored(given)
    return f"{found.build.name} as it stands", found.build


@pages.get("/compare")
def compare() -> str:
    """Two builds, or two revisions, side by side."""
    (left, one), (right, other) = _side(request.args.get("a", "")), _side(request.args.get("b", ""))
    if one.brief is None or other.brief is None:
        abort(409, "One of them is a circuit without a brief, so there is nothing to compare.")
    sides = [design(b) for b in (one, other)]
    figures = [head_figures(d.study, d.study.peak, d.findings) for d in sides]
    rows: list[tuple[str, str, str]] = []
    for a, b in zip(*figures, strict=True):
        rows.append(
            (
                a.words if a.key != "rail" else "rail at peak",
                f"{a.value} {a.unit}",
                f"{b.value} {b.unit}",
            )
        )
    rows += [(name, words(sides[0]), words(sides[1])) for name, words in SUMMARY.items()]
    fields = [
        (
            FIELDS[n].label,
            spelled(field_text(one, FIELDS[n])) or "as usual",
            spelled(field_text(other, FIELDS[n])) or "as usual",
        )
        for n in brief_differences(one, other)
        if n in FIELDS
    ]
    return render_template(
        "stations/history/compare.html",
        aircraft=any(b.brief is not None and b.brief.use == "flight" for b in (one, other)),
        left=left,
        right=right,
        sketches=[draw_sketch(d.study) for d in sides],
        rows=rows,
        fields=fields,
        parts=part_differences(one, other),
        findings=_findings(sides),
    )


def _first_limit(d: Any) -> str:
    first = d.whole
    return (
        f"{shown(first.ceiling, 'power')}, {' '.join(first.parts)}"
        if first and first.ceiling is not None
        else "none found"
    )


SUMMARY = {
    "the whole circuit supports": _first_limit,
    "Stops": lambda d: str(sum(f.level == "Stop" for f in d.every_finding)),
    "Checks": lambda d: str(sum(f.level == "Check" for f in d.every_finding)),
    "parts": lambda d: str(len(d.study.build.circuit.elements)),
    "hose": lambda d: shown(make_totals(d.study.build.circuit).length, "run"),
    "all parts cost": lambda d: money(make_totals(d.study.build.circuit).price),
    "all parts weigh, dry": lambda d: shown(make_totals(d.study.build.circuit).mass, "mass"),
}


def _findings(sides: list[Any]) -> list[tuple[Any, str]]:
    """Findings that only one side has, the left's first."""
    keys = [{key_of(f) for f in d.every_finding} for d in sides]
    only = [(f, "left") for f in sides[0].every_finding if key_of(f) not in keys[1]]
    return only + [(f, "right") for f in sides[1].every_finding if key_of(f) not in keys[0]]
