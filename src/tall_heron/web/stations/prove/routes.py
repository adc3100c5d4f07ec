"""Station 8, Prove: tests, their log, signatures, files, the record and upkeep."""

import json
from typing import Any

from flask import Blueprint, Response, abort, g, jsonify, render_template, request

from tall_heron.core.base.csv_text import csv_text
from tall_heron.core.design import Design
from tall_heron.core.document.build import Build
from tall_heron.core.document.wiring import Sender
from tall_heron.core.editing.measured import with_sender, with_spread
from tall_heron.core.prove.entry import SignOff, digest, entry_hash, entry_text, record_file
from tall_heron.store import logs
from tall_heron.web import answers
from tall_heron.web.answers import Stored
from tall_heron.web.files import database, keep_file
from tall_heron.web.forms.reading import Refused
from tall_heron.web.page_answer import answer, page_answer
from tall_heron.web.show.text import finding_text
from tall_heron.web.stations.prove import attached
from tall_heron.web.stations.prove.acts import ACTS
from tall_heron.web.stations.prove.calendar import reminders
from tall_heron.web.stations.prove.context import (
    CONTEXTS,
    causes_context,
    sender_fit_of,
    tests_context,
)
from tall_heron.web.stations.prove.proving import (
    counted,
    log_of,
    proving,
    solution_text,
    upkeep_of,
)
from tall_heron.web.stations.prove.words import entry_words, findings_against, reason_key, title_of

pages = Blueprint("prove", __name__)
ON_PAPER = 200  # entries of the log, before more is asked for


@pages.get("/builds/<slug>/prove")
def page(slug: str) -> str | Response:
    """The tests with one chosen; its pieces where JSON is asked for."""
    return page_answer(
        answers.stored(slug),
        "stations/prove/prove.html",
        {"page": "prove", "part": request.args.get("part", "")[:120]},
    )


@pages.get("/builds/<slug>/prove/<view>")
def sheet(slug: str, view: str) -> str | Response:
    """Another page of the station; its pieces where JSON is asked for."""
    if view not in CONTEXTS:
        abort(404)
    return page_answer(
        answers.stored(slug), "stations/prove/sheet.html", {"page": "prove", "view": view}
    )


@pages.post("/builds/<slug>/prove/act")
def act(slug: str) -> Response:
    """Add to the log, or sign."""
    data = answers.body()
    found = answers.stored(slug)
    name = str(data.get("act") or "")
    if name == "sign":
        _sign(found, data)
    elif name in ACTS:
        ACTS[name](data, found, proving(found))
    else:
        raise Refused("act", "That is not done here.")
    return answer(found, data)


def _sign(found: Stored, data: dict[str, Any]) -> None:
    """Freeze build, solution and log under a name."""
    if data.get("head") != found.row["head"]:
        raise answers.overtaken(found.row, "name")
    name, role = str(data.get("name") or "").strip(), str(data.get("role") or "built by")
    if not 2 <= len(name) <= 80 or not name.isprintable():
        raise Refused("name", "Write the name of whoever signs, 2 to 80 letters.")
    if role not in ("built by", "checked by"):
        raise Refused("role", "Built by, or checked by?")
    p = proving(found)
    count = counted(p)
    stands = [f"T{t.proof.number} {title_of(t.proof)}: {t.verdict}"[:120] for t in count["look"]]
    if (stands or count["next"] is not None) and str(data.get("although") or "").strip() == "":
        missing = count["asked"] - count["run"]
        raise Refused(
            "although",
            f"{len(stands)} tests to look at and {missing} not run are still open. Say why you sign all the same, or run them.",
        )
    if role == "checked by" and any(
        e.name.casefold() == name.casefold() for _, e in p.folded.signatures
    ):
        raise Refused("name", "Whoever built it cannot check it too: another person signs here.")
    made = answers.designed(found)
    stay = (
        _findings_with_reasons(made, data)
        if not p.folded.signatures
        else p.folded.signatures[0][1].findings or []
    )
    solution = solution_text(made)
    document = found.row["document"]
    although = str(data.get("although") or "").strip()[:400]

    def make(last: str) -> str:
        signed = {
            "name": name,
            "role": role,
            "build": found.row["sha256"],
            "solution": digest(solution),
            "last": last,
            "standing": stands[:300],
            "findings": stay[:300],
            "note": although,
        }
        return entry_text(SignOff.model_validate(signed))

    try:
        logs.sign(
            g.connection, found.row["id"], found.row["head"], make, entry_hash, (document, solution)
        )
    except logs.Moved:
        raise answers.overtaken(found.row, "name") from None


def _findings_with_reasons(made: Design, data: dict[str, Any]) -> list[str]:
    """Every Stop and Check of all stations, each with why it stays. Refused beside the first that
    has no reason.
    """
    out = []
    for f in findings_against(made):
        reason = f.accepted or str(data.get(reason_key(f)) or "").strip()[:400]
        if not reason:
            raise Refused(reason_key(f), "Say why it stays, or mend it.")
        out.append(f"{f.level} {f.rule}: {finding_text(f, 'title').striptags()}. {reason}"[:800])
    return out


@pages.get("/builds/<slug>/prove/causes")
def causes(slug: str) -> Response:
    """What a miss most likely means, looked for within a few seconds."""
    found = answers.stored(slug)
    return jsonify(
        piece=render_template(
            "stations/prove/causes.jinja", **causes_context(found, answers.designed(found))
        )
    )


@pages.post("/builds/<slug>/prove/file")
def send_file(slug: str) -> Response:
    """Keep a file that is attached to what is written next: a picture downscaled, all else as it is."""
    found = answers.stored(slug)
    try:
        data, media = attached.taken(request.get_data())
    except attached.NotTaken as wrong:
        raise Refused("files", str(wrong)) from None
    return jsonify(
        sha256=keep_file(data, media, found.row["id"], "files"), media=media, size=len(data)
    )


@pages.get("/builds/<slug>/prove/files/<sha256>")
def file(slug: str, sha256: str) -> Response:
    """A file of this build's log, as what it is."""
    found = answers.stored(slug)
    named = next(
        (f for k in log_of(found.row["id"]) for f in k.entry.files if f.sha256 == sha256), None
    )
    data = logs.file_data(database(), named.sha256) if named is not None else None
    if named is None:
        abort(404)
    if data is None:
        abort(409, "This file is gone, or is not what was kept. Take it from a backup.")
    return attached.given_back(data, named.media, named.name)


@pages.get("/builds/<slug>/prove/record")
def record(slug: str) -> str:
    """The record on paper: the newest entries of its log, or `all` of them."""
    found = answers.stored(slug)
    context = tests_context(found, answers.designed(found), "")
    whole = context["p"].log
    entries = whole if request.args.get("all") else whole[-ON_PAPER:]
    return render_template(
        "stations/prove/record.html", entry_words=entry_words, entries=entries, **context
    )


@pages.get("/builds/<slug>/prove/record.json")
def record_json(slug: str) -> Response:
    """The record as a file that verifies itself."""
    found = answers.stored(slug)
    p = proving(found)
    hashes = list(dict.fromkeys(x for _, e in p.folded.signatures for x in (e.build, e.solution)))
    frozen = (
        [logs.frozen(g.connection, x) for x in hashes]
        if hashes
        else [found.row["document"], solution_text(answers.designed(found))]
    )
    if None in frozen:
        abort(409, "What was signed is gone, or is not what was signed. Take it from a backup.")
    return answers.file(
        json.dumps(
            record_file(found.build.name, p.log, [x for x in frozen if x is not None]),
            ensure_ascii=False,
            indent=1,
        ),
        "application/json",
        f"{slug}-record.json",
    )


@pages.get("/builds/<slug>/prove/sender.csv")
def sender_csv(slug: str) -> Response:
    """The gauge's table of one tank as CSV (RFC 4180)."""
    found = answers.stored(slug)
    p = proving(found)
    tank = request.args.get("tank", "")
    poured = p.folded.poured(tank)
    if poured is None:
        abort(404)
    fit = sender_fit_of(
        poured[1], found.build.wiring.sender if found.build.wiring is not None else Sender()
    )
    rows = (
        [
            f"{1000 * m.volume:.2f}",
            f"{100 * m.share:.1f}",
            f"{m.ohm:.1f}",
            f"{m.volts:.3f}",
            str(m.count),
            f"{1000 * m.step:.3f}",
        ]
        for m in fit.table
    )
    return answers.file(
        csv_text(("litres", "percent", "ohm", "volt", "count", "litres_per_count"), rows),
        "text/csv",
        f"{slug}-sender-{tank or 'tank'}.csv",
    )


@pages.get("/builds/<slug>/prove/upkeep.ics")
def upkeep_ics(slug: str) -> Response:
    """What falls due, as a calendar (RFC 5545)."""
    found = answers.stored(slug)
    p = proving(found)
    return answers.file(
        reminders(slug, found.build.name, upkeep_of(found.build, p.folded)),
        "text/calendar",
        f"{slug}-upkeep.ics",
    )


@pages.post("/builds/<slug>/prove/use")
def use(slug: str) -> Response:
    """Put what was measured into the build."""
    data = answers.body()
    found = answers.stored(slug)
    p = proving(found)

    def change(build: Build) -> tuple[Build, str]:
        what = str(data.get("what") or "")
        if what == "spread" and p.folded.matches:
            return with_spread(build, p.folded.matches[-1][1].spread), "Injector spread as measured"
        tank = str(data.get("tank") or "")
        poured = p.folded.poured(tank)
        if what == "sender" and poured is not None and build.wiring is not None:
            fit = sender_fit_of(poured[1], build.wiring.sender)
            return with_sender(
                build, fit.fitted[0], fit.fitted[-1]
            ), f"Level sender of {tank} as poured"
        raise Refused("act", "Nothing of the kind was measured yet.")

    return answer(answers.act(slug, data, change, "act"), data)
