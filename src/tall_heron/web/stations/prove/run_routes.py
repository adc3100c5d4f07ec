"""Runs of station 8: a logger's file read, asked about, replayed with its progress told, looked at
and kept.
"""

import time
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

import numpy as np
from flask import Blueprint, Response, abort, g, jsonify, request

from tall_heron.core.base.log_columns import columns_of, scale_of
from tall_heron.core.prove.entry import File, RunEntry
from tall_heron.core.prove.log_file import read_log
from tall_heron.core.prove.log_head import WrongLog, read_head, text_of
from tall_heron.core.prove.replay import Replay, replay
from tall_heron.core.prove.words import cause_words
from tall_heron.store import logs
from tall_heron.web import answers
from tall_heron.web.files import keep_file
from tall_heron.web.forms.reading import Refused
from tall_heron.web.stations.prove.jobs import JOBS, Busy, Job, start
from tall_heron.web.stations.prove.proving import fresh_predictor, keep
from tall_heron.web.stations.prove.run_context import (
    FROM,
    REPLAYS,
    chart_data,
    column_data,
    file_text,
    head_of,
    key_of,
    remember,
)

pages = Blueprint("prove_runs", __name__)


@contextmanager
def _refusing() -> Iterator[None]:
    """What is wrong with a file is said beside it."""
    try:
        yield
    except WrongLog as wrong:
        raise Refused("log", str(wrong)) from None


@pages.post("/builds/<slug>/prove/log")
def bring_log(slug: str) -> Response:
    """Take in a logger's file; its headers with what has to be told before it can be read."""
    found = answers.stored(slug)
    data = request.get_data()
    with _refusing():
        head, column_map = head_of(text_of(data))
    sha256 = keep_file(data, "text/plain", found.row["id"], "log")
    return jsonify(
        sha256=sha256,
        columns=[column_data(c) for c in head.columns],
        asks=bool(head.questions) and not column_map,
    )


@pages.post("/builds/<slug>/prove/columns")
def columns(slug: str) -> Response:
    """How a file's columns are to be read; remembered for all files with its headers."""
    answers.stored(slug)
    data = answers.body()
    text = _text(str(data.get("sha256") or ""))
    rows = data.get("columns")
    if not isinstance(rows, list) or len(rows) > 200:
        raise Refused("log", "The request names no columns.")
    column_map: dict[str, tuple[str, str, str]] = {}
    for row in rows:
        if not isinstance(row, dict):
            raise Refused("log", "The request names no columns.")
        header, key, unit, counts = (
            str(row.get(x) or "")[:200] for x in ("header", "key", "unit", "counts")
        )
        if not key:
            column_map[header] = ("", "", "")
            continue
        if (
            key not in {str(row["name"]) for row in columns_of("log")}
            or scale_of(key, unit) is None
            or counts not in ("", *(f for f, _ in FROM))
        ):
            raise Refused("log", f"“{header[:40]}”: say what it holds and in which unit.")
        column_map[header] = (key, unit, counts)
    with _refusing():
        head = read_head(text, column_map)
    remember(head.signature, column_map)
    return jsonify(ok=True)


def _text(sha256: str) -> str:
    if len(sha256) != 64 or logs.file_row(g.connection, sha256) is None:
        raise Refused("log", "That file is not here; bring it in again.")
    with _refusing():
        text = file_text(sha256)
    if text is None:
        raise Refused("log", "That file is gone, or is not what was kept.")
    return text


@pages.post("/builds/<slug>/prove/replay")
def begin(slug: str) -> Response:
    """Begin to replay a file on the build; the number of the work."""
    found = answers.stored(slug)
    sha256 = str(answers.body().get("sha256") or "")
    text = _text(sha256)
    with _refusing():
        head, _ = head_of(text)
    build, key = found.build, key_of(sha256, head, found.row["sha256"])

    def work(job: Job) -> bool:
        predictor = fresh_predictor(build)
        log = read_log(
            text,
            head,
            predictor.study.peak.case.point.atmosphere,
            lambda: job.stopped,
            lambda x: job.report(0.25 * x, "reading the file"),
        )
        made = (
            replay(
                predictor,
                log,
                lambda: job.stopped,
                lambda x, words: job.report(0.25 + 0.75 * x, words),
            )
            if log is not None
            else None
        )
        if made is not None:
            REPLAYS.put(key, made)
        return made is not None

    try:
        return jsonify(job=start(work, (WrongLog,)).number)
    except Busy:
        raise Refused(
            "log", "Three runs are being replayed already; wait for one to end, or stop it.", 429
        ) from None


@pages.get("/builds/<slug>/prove/jobs/<number>")
def progress(slug: str, number: str) -> Response:
    """How far a piece of work is."""
    job = _job(number)
    job.looked = time.monotonic()
    return jsonify(
        share=job.share,
        words=job.words,
        over=job.over,
        stopped=job.stopped,
        wrong=job.wrong,
        done=bool(job.result),
    )


@pages.post("/builds/<slug>/prove/jobs/<number>/stop")
def stop(slug: str, number: str) -> Response:
    """Stop a piece of work."""
    _job(number).stopped = True
    return jsonify(ok=True)


def _job(number: str) -> Job:
    job = JOBS.find(number[:40])
    if job is None:
        abort(404)
    return job


def _replay_of(found: Any) -> tuple[Replay, str, Any]:
    sha256 = (
        request.args.get("file", "")
        if request.method == "GET"
        else str(answers.body().get("sha256") or "")
    )
    with _refusing():
        head, _ = head_of(_text(sha256))
    key = key_of(sha256, head, found.row["sha256"])
    made = REPLAYS.find(key)
    if made is None:
        raise Refused("log", "Replay it first.")
    return made, sha256, head


@pages.get("/builds/<slug>/prove/replay.json")
def lines(slug: str) -> Response:
    """Lines of the charts between two times."""
    try:
        made, _, _ = _replay_of(answers.stored(slug))
    except Refused:
        abort(404)
    ends = [request.args.get("from", type=float), request.args.get("to", type=float)]
    low = ends[0] if ends[0] is not None and np.isfinite(ends[0]) else -1.0
    high = ends[1] if ends[1] is not None and np.isfinite(ends[1]) else 1e12
    return jsonify(chart_data(made, low, high))


@pages.post("/builds/<slug>/prove/keep-run")
def keep_run(slug: str) -> Response:
    """Keep a replayed run in the log."""
    found = answers.stored(slug)
    made, sha256, head = _replay_of(found)
    data = answers.body()
    name = str(data.get("name") or "run").strip()[:80] or "run"
    row = logs.file_row(g.connection, sha256)
    assert row is not None  # it was read just now
    verdict = made.verdict
    says = (
        [cause_words(r.fault, r.also)[:120] for r in verdict.named[:5]]
        if verdict is not None
        else []
    )
    column_map = {c.header[:200]: (c.key, c.unit, c.counts) for c in head.columns}
    files = [File(name=f"{name}.csv"[:120], sha256=sha256, media=row["media"], size=row["size"])]
    keep(
        found.row["id"],
        RunEntry(
            name=name,
            columns=column_map,
            named=says,
            sure=verdict is not None and verdict.sure,
            seconds=made.log.seconds,
            files=files,
        ),
    )
    return jsonify(kept=True)
