"""A run along which the fuel of a tank is looked at: the page, the tank's inside, and runs that are
brought in.
"""

from flask import Blueprint, Response, g, jsonify, render_template, request

from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.document.build import Build
from tall_heron.core.editing.inside import set_inside
from tall_heron.core.study.slosh.drive_file import WrongRun, read_run
from tall_heron.store import runs
from tall_heron.web import answers
from tall_heron.web.forms import reading
from tall_heron.web.show.units import unit
from tall_heron.web.stations.cases.run import run_context

pages = Blueprint("runs", __name__)
MOST_RUNS = 100


@pages.get("/builds/<slug>/cases/run")
def page(slug: str) -> str:
    """The fuel of one tank along a run."""
    found = answers.stored(slug)
    asked = {name: request.args.get(name, "")[:40] for name in ("tank", "run", "fill")}
    return render_template(
        "stations/cases/run.html", **run_context(found, answers.designed(found), asked)
    )


INSIDE = ("lies", "ahead", "right", "walls", "side", "hump_high", "hump_wide", "gauge")


@pages.post("/builds/<slug>/cases/inside")
def inside(slug: str) -> Response:
    """What stands inside a tank, as it is typed."""
    data = answers.body()
    tank = reading.text_of(data, "tank")[:40]
    typed = {name: reading.text_of(data, name) if name in data else "" for name in INSIDE}

    def make(build: Build) -> tuple[Build, str]:
        try:
            return set_inside(build, tank, typed, unit("length").word), f"Inside {tank} changed"
        except BuildErrors as errors:
            first = errors.errors[0]
            raise reading.Refused(
                first.field.strip("/").partition("/")[0], reading.sentence(first.message)
            ) from None

    stored = answers.act(slug, data, make, "ahead")
    return jsonify(head=stored.row["head"])


@pages.post("/runs")
def bring_in() -> Response:
    """Bring in a run; it is read first, and kept as it is."""
    data = answers.body()
    name, text = reading.text_of(data, "name").strip(), reading.text_of(data, "text")
    if not 1 <= len(name) <= 60 or not name.isprintable():
        raise reading.Refused("name", "Give the run a name of 1 to 60 letters.")
    try:
        read_run(name, text)
    except WrongRun as wrong:
        raise reading.Refused("text", str(wrong)) from None
    if len(runs.every(g.connection)) >= MOST_RUNS:
        raise reading.Refused("name", f"There are {MOST_RUNS} runs already; take one away first.")
    return jsonify(key=f"own-{runs.add(g.connection, name, text)}")


@pages.post("/runs/off")
def take_off() -> Response:
    """Take a run away."""
    key = reading.text_of(answers.body(), "key")
    if not runs.take_off(g.connection, reading.whole(key.removeprefix("own-"))):
        raise reading.Refused("key", "There is no run of that name.")
    return jsonify()
