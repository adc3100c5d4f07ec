"""Station 3, Circuit: the drawn strip, the pressure walk, the chosen part."""

from flask import Blueprint, Response, abort, g, render_template, request

from tall_heron.core.document.build import Build
from tall_heron.core.editing import fields as edit
from tall_heron.core.hydraulics.epanet import make_inp
from tall_heron.store import builds
from tall_heron.web import answers
from tall_heron.web.forms import reading
from tall_heron.web.page_answer import answer, pieces_answer
from tall_heron.web.stations.circuit.context import (
    circuit_context,
    ladder_context,
    sheet_context,
    swaps_context,
    the_case,
)

pages = Blueprint("circuit", __name__)


@pages.get("/builds/<slug>/circuit")
def page(slug: str) -> str | Response:
    """The circuit of a build with one part chosen, at one case, perhaps with a swap on trial; its
    pieces where JSON is asked for.
    """
    found = answers.stored(slug)
    part, case, wanted, walk = (request.args.get(x, "") for x in ("part", "case", "try", "walk"))
    if request.accept_mimetypes.best == "application/json":
        return answer(
            found,
            {
                "page": "circuit",
                "part": part,
                "case": case,
                "try": wanted,
                "walk": walk,
                "have": answers.marks(),
            },
        )
    made = answers.designed(found)
    context = circuit_context(found, made, part, case, wanted, walk, whole=True)
    return render_template("stations/circuit/circuit.html", **context)


@pages.get("/builds/<slug>/swaps")
def swaps(slug: str) -> Response:
    """What the shelf has for the chosen part, solved: the page asks for it after its drawing and
    figures; the first rows, or `every` one.
    """
    found = answers.stored(slug)
    made, page = answers.designed(found), request.args.get("page", "circuit")
    part, case, wanted, every = (request.args.get(x, "") for x in ("part", "case", "try", "every"))
    context = swaps_context(made, part, case, wanted, bool(every)) | {"page": page, "slug": slug}
    pieces = {"swaps": "pieces/swaps.jinja"}
    return pieces_answer(pieces, context, {"have": answers.marks()}, head=found.row["head"])


@pages.get("/builds/<slug>/ladder")
def ladder(slug: str) -> Response:
    """How much power the circuit feeds, whole and part by part: the page asks for it last."""
    found = answers.stored(slug)
    part, case, wanted = (request.args.get(x, "") for x in ("part", "case", "try"))
    context = ladder_context(answers.designed(found), part, case, wanted)
    pieces = {
        "own-limits": "stations/circuit/own_limits.jinja",
        "ladder": "stations/circuit/ladder.jinja",
    }
    return pieces_answer(
        pieces, context | {"slug": slug}, {"have": answers.marks()}, head=found.row["head"]
    )


@pages.get("/builds/<slug>/sheet")
def sheet(slug: str) -> str:
    """The circuit on paper: drawing, findings, ladder, and the arithmetic of every part at one
    case.
    """
    found = answers.stored(slug)
    return render_template(
        "stations/circuit/sheet.html",
        **sheet_context(found, answers.designed(found), request.args.get("case", "")),
    )


@pages.get("/builds/<slug>/circuit.inp")
def inp(slug: str) -> Response:
    """The network at one case as an EPANET input file."""
    found = answers.stored(slug)
    solved = the_case(answers.designed(found), request.args.get("case", ""))
    try:
        text = make_inp(
            solved.case.demand, solved.solution, f"{found.build.name}, {solved.case.title}"
        )
    except ValueError as error:
        abort(409, f"There is no network to write: {error}.")
    return answers.file(
        text, "text/plain", f"{found.row['slug']}-{solved.case.key.replace(' ', '-')}.inp"
    )


@pages.post("/builds/<slug>/fit")
def fit(slug: str) -> Response:
    """Fit a part of the shelf in place of one."""
    data = answers.body()
    part, name = reading.text_of(data, "part"), reading.text_of(data, "name")
    own = answers.own_shelf()

    def make(build: Build) -> tuple[Build, str]:
        new = edit.fit(build, part, name, own)
        fitted = new.circuit.element(part)
        return new, f"{part}: {fitted.title if fitted else name}"

    return answer(
        answers.act(slug, data, make, "part"),
        data | ({"hose": part} if data.get("page") == "hoses" else {}),
    )


@pages.post("/builds/<slug>/accept")
def accept(slug: str) -> Response:
    """Accept a finding with a written reason; an empty one takes that back."""
    data = answers.body()
    rule, part, reason = (reading.text_of(data, x) for x in ("rule", "part_found", "text"))
    if data.get("way") != "back" and len(reason.strip()) < 3:
        raise reading.Refused("text", "Write the reason: whoever reads the sheet will ask for it.")

    def make(build: Build) -> tuple[Build, str]:
        new = edit.accept(build, rule, part, reason)
        return new, f"{rule} {part} {'accepted' if reason.strip() else 'no longer accepted'}"

    return answer(answers.act(slug, data, make, "text"), data)


@pages.post("/builds/<slug>/undo")
def undo(slug: str) -> Response:
    """Go back to the revision before, or forward again (`way` is `redo`)."""
    data = answers.body()
    found = answers.stored(slug)
    head = data.get("head")
    if not isinstance(head, int):
        raise reading.Refused("head", "The request names no revision.", 400)
    step = builds.redo if data.get("way") == "redo" else builds.undo
    try:
        step(g.connection, found.row["id"], head)
    except builds.ChangedElsewhere:
        raise answers.overtaken(builds.find(g.connection, slug), "") from None
    except LookupError as error:
        raise reading.Refused("", f"{str(error).capitalize()}.", 409) from None
    return answer(answers.stored(slug), data)
