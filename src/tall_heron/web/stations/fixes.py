"""What clears a finding: asked for once a page stands, pressed, and undone by its name like any
other act.
"""

from flask import Blueprint, Response, jsonify, render_template, request
from markupsafe import Markup

from tall_heron.core.document.build import Build
from tall_heron.core.fixing.fixes import fix_of, key_of, lacking
from tall_heron.core.rules import every_finding
from tall_heron.core.rules.finding import Finding
from tall_heron.core.study.study import Study
from tall_heron.web import answers
from tall_heron.web.forms import reading
from tall_heron.web.page_answer import answer
from tall_heron.web.show.text import fix_text, lacking_text

pages = Blueprint("fixes", __name__)
MOST = 12  # findings that one request asks after


def found_of(study: Study, key: str) -> Finding | None:
    """The finding of a key, as a page names it."""
    return next((f for f in every_finding(study) if key_of(f) == key), None)


@pages.get("/builds/<slug>/fixes")
def fixes(slug: str) -> Response:
    """For each finding asked after what clears it, tried, or what would have to exist."""
    study = answers.designed(answers.stored(slug)).study
    out = {}
    for key in request.args.getlist("key")[:MOST]:
        finding = found_of(study, key)
        if finding is not None:
            own = answers.own_shelf()
            fix = fix_of(study, finding, own)
            missing = lacking_text(lacking(study, finding, own)) if fix is None else Markup("")
            out[key] = render_template(
                "pieces/fix.jinja", f=finding, fix=fix, lacking=missing, key=key
            )
    return jsonify(fixes=out)


@pages.post("/builds/<slug>/fix")
def press(slug: str) -> Response:
    """Do what clears a finding."""
    data = answers.body()
    key, own = reading.text_of(data, "key"), answers.own_shelf()

    def make(_: Build) -> tuple[Build, str]:
        study = answers.designed(answers.stored(slug)).study
        finding = found_of(study, key)
        fix = fix_of(study, finding, own) if finding is not None else None
        if fix is None or finding is None:
            raise reading.Refused(
                "key", "That is not found any more, or nothing clears it. Load the page again."
            )
        return fix.build, f"fix {finding.rule}: {fix_text(fix).striptags()}"

    return answer(answers.act(slug, data, make, "key"), data)
