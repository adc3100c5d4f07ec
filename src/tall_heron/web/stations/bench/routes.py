"""The bench: every build, what it wants next, and how to start another."""

import tempfile
from pathlib import Path
from typing import Any

from flask import (
    Blueprint,
    Response,
    abort,
    g,
    jsonify,
    redirect,
    render_template,
    request,
    send_file,
    url_for,
)
from werkzeug.wrappers import Response as BaseResponse

from tall_heron.core.base.catalogue import table
from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.begin.started import start as begin
from tall_heron.core.document.build import dump, load
from tall_heron.core.document.record import one_line
from tall_heron.core.editing.drawn import held_to_drawing
from tall_heron.core.rules import CASE_RULES, ROUTE_RULES, RULES, WIRING_RULES
from tall_heron.store import archive, builds, bundle, db, restored, room, summaries
from tall_heron.web import answers
from tall_heron.web.backups import schedule
from tall_heron.web.files import database
from tall_heron.web.forms import reading
from tall_heron.web.forms.brief import FIELDS, read_field
from tall_heron.web.forms.reading import Refused
from tall_heron.web.frame import frame
from tall_heron.web.page_answer import pieces_answer
from tall_heron.web.station import HEAD
from tall_heron.web.stations.brief.context import FIRST_SIZES, keep_on_shelf
from tall_heron.web.stations.prove.proving import on_bench
from tall_heron.web.summary import edition, known_of, worked_out

pages = Blueprint("bench", __name__)


PAGE = 60  # builds on one page of the bench


@pages.get("/")
def bench() -> str:
    """The builds on the bench."""
    return _bench("", "", 200)[0]


def _bench(wrong: str, typed: str, status: int) -> tuple[str, int]:
    at = max(reading.whole(request.args.get("page")), 1)
    words = " ".join(request.args.get("q", "").split())[:80]
    order = request.args.get("by", "started")
    order = order if order in builds.ORDERS else "started"
    away = request.args.get("away") == "yes"
    rows = builds.page(g.connection, (at - 1) * PAGE, PAGE, words, order, away, edition())
    places = list(zip(rows, known_of(g.connection, rows), strict=True))
    levels = summaries.levels(g.connection, edition())
    listed = builds.count(g.connection, words, away)
    context = {
        "places": places,
        "levels": levels,
        "total": sum(levels.values()),
        "listed": listed,
        "words": words,
        "order": order,
        "away": away,
        "put_away": builds.count(g.connection, "", True),
        "at": at,
        "pages": -(-listed // PAGE),
        "wrong": wrong,
        "typed": typed,
        "proved": on_bench(rows),
        "notices": _notices(),
    }
    return render_template("stations/bench/bench.html", **context), status


def _notices() -> list[str]:
    """What whoever looks after the store should know."""
    kept = schedule()
    said = (
        room.of_disk(database().parent),
        room.of_store(g.connection),
        kept.fault if kept is not None else "",
    )
    return [words for words in said if words]


@pages.get("/builds/<slug>/marks")
def marks(slug: str) -> Response:
    """The run of stations with every station looked at, for a page that shows what was before."""
    found = answers.stored(slug)
    worked_out(g.connection, found.row)
    own, page = f"/builds/{found.row['slug']}/", request.args.get("page", "")
    here = request.args.get("here", "")
    context = frame(found, answers.designed(found), page)
    context["here"] = here if here.startswith(own) else own + page
    return pieces_answer(HEAD, context, {"have": answers.marks()}, head=found.row["head"])


@pages.get("/builds/<slug>/place")
def place(slug: str) -> Response:
    """What the bench says of one build, worked out; and how many stand how."""
    row = builds.find(g.connection, slug)
    if row is None:
        abort(404)
    p = worked_out(g.connection, row)
    levels = summaries.levels(g.connection, edition())
    context = {
        "row": row,
        "p": p,
        "first": request.args.get("first") == "yes",
        "away": request.args.get("away") == "yes",
        "proved": on_bench([row]),
        "levels": levels,
        "total": sum(levels.values()),
    }
    return jsonify(
        place=render_template("stations/bench/place.jinja", **context),
        counts=render_template("stations/bench/counts.jinja", **context),
    )


@pages.post("/builds/<slug>/copy")
def copy(slug: str) -> BaseResponse:
    """Another build like one: its parts, routes and wiring, without its log."""
    found = answers.stored(slug)
    made = answers.duplicated(found, f"{found.build.name[:50]} copy")
    return redirect(url_for("brief.page", slug=made))


@pages.post("/builds/<slug>/archive")
def archived(slug: str) -> BaseResponse:
    """Put a build away, or fetch it back."""
    if builds.head(g.connection, slug) is None:
        abort(404)
    away = request.form.get("away") == "yes"
    builds.archive(g.connection, slug, away)
    return redirect(url_for("bench.bench", away=None if away else "yes"))


@pages.get("/rules")
def rules() -> str:
    """The house rules and the figures they use, from the source the application runs."""
    return render_template(
        "stations/bench/rules.html",
        rules=RULES + CASE_RULES + ROUTE_RULES + WIRING_RULES,
        figures=table("house_figures"),
    )


@pages.post("/builds")
def start() -> tuple[str, int] | BaseResponse:
    """A new build: from a file, or from one line: laid out with usual parts, then sized, as two
    acts of which the second can be undone.
    """
    file, sized = request.files.get("file"), None
    if file is not None and file.filename:
        try:
            data, pictures = bundle.opened(file.read())
            build, other = held_to_drawing(load(data))
        except BuildErrors as errors:
            return _bench(
                f"{file.filename}: " + "; ".join(str(e) for e in errors.errors[:5]), "", 422
            )
        except bundle.NotABundle as error:
            return _bench(f"{file.filename}: {error}", "", 422)
        try:
            room.take(g.connection, None, sum(len(data) for data, _ in pictures))
        except room.NoRoom as full:
            return _bench(f"{file.filename}: {full}", "", 413)
        bundle.keep(g.connection, database(), pictures)
        act = "Opened from a file" + (f"; {', '.join(other)} as long as drawn" if other else "")
    else:
        line = one_line(request.form.get("name", "")).strip()
        if not 1 <= len(line) <= 300:
            return _bench(
                "Give the build a name, or one line that says what it is.", line[:300], 422
            )
        begun = begin(line, _refusal)
        build, sized = begun.laid, begun.sized
        act = f"Started from “{line[:80]}”" if begun.says else "Started"
        keep_on_shelf(begun.on_hand)
    slug = builds.create(
        g.connection,
        build.name,
        dump(build),
        act,
        then=(FIRST_SIZES, dump(sized)) if sized is not None else None,
    )
    if build.brief is None:
        return redirect(url_for("bench.bench"))
    return redirect(url_for("brief.page", slug=slug))


def _refusal(name: str, text: str) -> str:
    """Why a field of the brief cannot be what was typed, in its own words and unit; empty where it
    can.
    """
    if name in FIELDS and FIELDS[name].quantity:
        try:
            read_field(FIELDS[name], text)
        except Refused as refused:
            return refused.message
    return ""


@pages.get("/builds/<slug>/build.json")
def download(slug: str) -> Response:
    """The build as a file; one that is damaged as it is only where that is asked for."""
    row = builds.find(g.connection, slug)
    if row is None:
        abort(404)
    if request.args.get("damaged"):
        return answers.file(row["document"], "application/json", f"{row['slug']}-damaged.json")
    return answers.file(_document(row), "application/json", f"{row['slug']}.json")


def _document(row: Any) -> str:
    try:
        return builds.document_of(row)
    except builds.Altered as altered:
        answers.untrusted(altered)


@pages.get("/backup")
def backups() -> str:
    """Where everything is taken away as one archive, and brought back."""
    return _backups()


def _backups(wrong: str = "", done: restored.Restored | None = None) -> str:
    count = builds.number(g.connection)
    return render_template(
        "stations/bench/backup.html",
        page="backup",
        count=count,
        wrong=wrong,
        done=done,
        schedule=schedule(),
        notices=_notices(),
    )


@pages.post("/backup")
def restore() -> Response | str | tuple[str, int]:
    """A backup in the place of all that is here, which is kept beside it; with a fault nothing is
    changed.
    """
    sent = request.files.get("file")
    if sent is None or not sent.filename:
        return _backups(
            "Choose the backup that is to be restored: a ZIP of this page, or of the command line."
        ), 422
    if not request.form.get("sure"):
        return _backups("Say that what is here may be replaced; nothing was changed."), 422
    with tempfile.TemporaryDirectory() as room:
        file = Path(room) / "sent"
        sent.save(file)
        try:
            return _backups(done=restored.take_up(file, database()))
        except (db.Unusable, FileNotFoundError) as error:
            return _backups(
                str(error).replace(str(file), sent.filename[:80]).rstrip(".")
                + ". Nothing was changed."
            ), 422


@pages.get("/backup.zip")
def backup() -> Response:
    """Everything there is as one archive, as the command line's backup makes it."""
    with tempfile.TemporaryDirectory() as room:
        target = Path(room) / "backup.zip"
        archive.pack(database(), target, Path(room))
        file = target.open("rb")  # open, it outlives its folder
    answer = send_file(
        file, "application/zip", as_attachment=True, download_name="tall-heron-backup.zip"
    )
    answer.call_on_close(file.close)
    return answer


@pages.get("/builds/<slug>/build.zip")
def download_all(slug: str) -> Response:
    """The build and the pictures under its views."""
    row = builds.find(g.connection, slug)
    if row is None:
        abort(404)
    return answers.file(
        bundle.packed(_document(row), g.connection, database()),
        "application/zip",
        f"{row['slug']}.zip",
    )
