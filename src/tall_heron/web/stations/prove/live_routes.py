"""Live pages of station 8: the stand-in car and the stand-in rig as files and as streams
(server-sent events), and a rig's points put into the build.
"""

import json
import threading
import time
from collections.abc import Iterator
from typing import Any

from flask import Blueprint, Response, abort, jsonify, request

from tall_heron.core.base.constants import KPA
from tall_heron.core.base.lru_cache import LruCache
from tall_heron.core.document.build import Build
from tall_heron.core.document.figures import PumpMap
from tall_heron.core.editing.measured import with_element
from tall_heron.core.prove.car import (
    HEADERS,
    LogRow,
    Noise,
    dead_share_at,
    drive,
    drive_text,
    full_flow,
    row_text,
    switchable,
    varied,
    wanted_demand,
)
from tall_heron.core.prove.entry import File, Note
from tall_heron.core.prove.faults import Fault
from tall_heron.core.prove.log_file import Log, read_log
from tall_heron.core.prove.log_head import WrongLog, read_head
from tall_heron.core.prove.predict import Predictor, Setup
from tall_heron.core.prove.replay import replay
from tall_heron.core.prove.rig import RigRow, WrongRig, measured_map, read_rig, rig_rows, rig_text
from tall_heron.core.study.study import Study, make_study
from tall_heron.web import answers
from tall_heron.web.files import keep_file
from tall_heron.web.forms import reading
from tall_heron.web.forms.reading import Refused, sentence
from tall_heron.web.page_answer import answer
from tall_heron.web.show.text import in_unit, unit_of
from tall_heron.web.stations.prove.proving import keep
from tall_heron.web.stations.prove.words import cause_rows

pages = Blueprint("prove_live", __name__)
NOISES = {"quiet": 0.5, "usual": 1.0, "loud": 2.0}
SPEEDS = (1.0, 4.0, 10.0, 40.0)
LIVE_HZ = 10.0
RUNS = LruCache[str](
    4
)  # of the stand-in car, by document and what was asked: each some hundred kilobytes
LOOK_EVERY_S = 15.0  # of the run, between looks for a cause
MOST_STREAMS = 4  # live at once: each holds a thread of the server
_streams = threading.BoundedSemaphore(MOST_STREAMS)
MOST_LIVE_S = 150.0  # of the clock on the wall


def _fault(study: Study, name: str) -> Fault:
    return next(
        (f for f in switchable(study) if f"{f.kind} {f.part}".strip() == name), Fault("none")
    )


def _asked() -> tuple[str, int, float, float]:
    seed = request.args.get("seed", default=1, type=int) % 100_000
    speed = min(
        SPEEDS, key=lambda s: abs(s - (request.args.get("speed", default=10.0, type=float) or 10.0))
    )
    return (
        request.args.get("fault", "")[:60],
        seed,
        NOISES.get(request.args.get("noise", ""), 1.0),
        speed,
    )


def _driven(found: answers.Stored, name: str, seed: int, noise: float) -> str:
    """A run of the stand-in car as its logger writes it, made once for a document."""
    key = found.row["sha256"], name, seed, noise
    fault = _fault(answers.designed(found).study, name)
    return RUNS.get(key, lambda: drive_text(found.build, fault, seed, Noise().times(noise)))


@pages.get("/builds/<slug>/prove/car.csv")
def car_csv(slug: str) -> Response:
    """A run of the stand-in car as its logger writes it."""
    name, seed, noise, _ = _asked()
    text = _driven(answers.stored(slug), name, seed, noise)
    return answers.file(text, "text/csv", f"{slug}-run-{seed}.csv")


@pages.post("/builds/<slug>/prove/live/keep")
def keep_live(slug: str) -> Response:
    """The file of a live run, to be replayed and kept."""
    found = answers.stored(slug)
    data = answers.body()
    name, seed = str(data.get("fault") or ""), reading.whole(str(data.get("seed") or "")) % 100_000
    text = _driven(found, name, seed, NOISES.get(str(data.get("noise")), 1.0))
    return jsonify(sha256=keep_file(text.encode(), "text/plain", found.row["id"], "seed"))


@pages.get("/builds/<slug>/prove/stream")
def stream(slug: str) -> Response:
    """The stand-in car live (server-sent events): rows as they come, and every quarter of a minute
    what they say.
    """
    found = answers.stored(slug)
    name, seed, noise, speed = _asked()
    build, study = (
        found.build,
        make_study(found.build),
    )  # of its own: the stream outlives this request
    fault = _fault(study, name)
    rows = _car_events(
        study,
        drive(
            build, fault, seed, Noise().times(noise), LIVE_HZ, like=make_study(varied(build, seed))
        ),
        speed,
    )
    return _events(rows)


def _events(rows: Iterator[tuple[str, Any]]) -> Response:
    def written() -> Iterator[str]:
        if not _streams.acquire(blocking=False):
            yield f"event: ended\ndata: {json.dumps({'words': f'{MOST_STREAMS} runs are live already; wait for one to end'})}\n\n"
            return
        try:
            for name, data in rows:
                yield f"event: {name}\ndata: {json.dumps(data)}\n\n"
        finally:
            _streams.release()

    return Response(written(), mimetype="text/event-stream", headers={"X-Accel-Buffering": "no"})


def _car_events(study: Study, rows: Iterator[LogRow], speed: float) -> Iterator[tuple[str, Any]]:
    predictor, air, began, kept, looked = (
        Predictor(study),
        study.peak.case.point.atmosphere,
        time.monotonic(),
        [],
        0.0,
    )
    every = LOOK_EVERY_S * max(
        speed / 10, 1.0
    )  # a look takes seconds, and whoever plays it fast waits for the end
    psi, volume = (unit_of(q) for q in ("pressure", "volume_flow"))
    yield "begins", {"pressure": psi, "flow": volume}
    group: list[list[float | None]] = []
    for row in rows:
        kept.append(row_text(row, air))
        setup = Setup(
            "rail",
            manifold=row.manifold,
            fuel_demand=max(_burn(study, row), 0.0),
            volts=row.volts,
            at_pump=False,
            rpm=row.rpm,
        )
        predicted = predictor.predict(setup)
        pressures = [
            in_unit(x, "pressure") if x is not None else None
            for x in (row.rail, predicted, row.manifold)
        ]
        duty = None if row.duty is None else round(100 * row.duty, 1)
        group.append(
            [
                row.time,
                row.rpm,
                *(round(x, 2) if x is not None else None for x in pressures),
                round(row.volts, 2),
                duty,
                row.amps and round(row.amps, 2),
            ]
        )
        if len(group) >= max(round(LIVE_HZ * speed / 4), 1):
            yield "rows", group
            group = []
        if row.time - looked >= every:
            looked = row.time
            yield "cause", _looked(study, kept)
        if time.monotonic() - began > MOST_LIVE_S:
            yield (
                "ended",
                {
                    "words": f"stopped after {MOST_LIVE_S:.0f} s of your time, at {row.time:.0f} s of the run"
                },
            )
            return
        _pace(began, row.time / speed)
    if group:
        yield "rows", group
    yield "cause", _looked(study, kept)
    yield "ended", {"words": "the run is over"}


def _pace(began: float, seconds: float) -> None:
    """Wait until so many seconds since a moment have gone by; half a second at most, so that a
    stream that nobody reads is noticed.
    """
    time.sleep(min(max(began + seconds - time.monotonic(), 0.0), 0.5))


def _burn(study: Study, row: LogRow) -> float:
    full = full_flow(study)
    if row.duty is None or not full:
        return float(wanted_demand(study, row.rpm, row.manifold))
    return (row.duty - float(dead_share_at(study, row.rpm, row.volts))) * full


def _looked(study: Study, kept: list[str]) -> dict[str, Any]:
    """What a run says so far: the same replay as of a file."""
    text = "\r\n".join([",".join(HEADERS), *kept])
    try:
        log: Log | None = read_log(text, read_head(text), study.peak.case.point.atmosphere)
    except WrongLog as wrong:
        return {"sure": False, "found": [], "words": str(wrong)}
    made = replay(Predictor(study), log) if log is not None else None
    if made is None or made.verdict is None:
        return {"sure": False, "found": [], "words": "too early to tell"}
    rows = [
        {"words": r.words, "amount": r.amount, "share": round(100 * r.share)}
        for r in cause_rows(made.verdict)
        if r.ranked in made.verdict.named
    ]
    words = (
        "nothing speaks against the build"
        if not rows
        else "likely"
        if made.verdict.sure
        else "not sure yet"
    )
    return {"sure": made.verdict.sure, "found": rows, "words": words, "blind": list(made.blind[:4])}


@pages.get("/builds/<slug>/prove/rig.csv")
def rig_csv(slug: str) -> Response:
    """A run of the stand-in rig with one pump of the build."""
    study = answers.designed(answers.stored(slug)).study
    pump, rows = _rig(study)
    return answers.file(rig_text(rows), "text/csv", f"{slug}-rig-{pump}.csv")


@pages.get("/builds/<slug>/prove/rig-stream")
def rig_stream(slug: str) -> Response:
    """The stand-in rig live."""
    _, rows = _rig(make_study(answers.stored(slug).build))
    return _events(_rig_events(rows, _asked()[3]))


def _rig(study: Study) -> tuple[str, Iterator[RigRow]]:
    pump, kind = request.args.get("pump", "")[:40], request.args.get("fault", "none")
    element = study.build.circuit.element(pump)
    if element is None or not isinstance(element.figures, PumpMap):
        abort(404)
    strength = {"worn": 0.8, "air": 0.2, "volts": 1.5}.get(kind)
    fault = Fault(kind, pump, strength) if strength is not None else Fault("none", pump)
    return pump, rig_rows(study, pump, fault, _asked()[1])


def _rig_events(rows: Iterator[RigRow], speed: float) -> Iterator[tuple[str, Any]]:
    began, kept = time.monotonic(), []
    yield "begins", {"pressure": unit_of("pressure"), "flow": unit_of("volume_flow")}
    for row in rows:
        kept.append(row)
        yield (
            "rows",
            [
                [
                    row.time,
                    round(in_unit(row.pressure, "pressure"), 2),
                    round(in_unit(row.flow, "volume_flow"), 2),
                    round(row.volts, 2),
                    round(row.amps, 2),
                ]
            ],
        )
        _pace(began, row.time / speed)
    points = read_rig(rig_text(iter(kept)))
    yield (
        "points",
        [
            [
                round(in_unit(p.pressure, "pressure"), 1),
                round(in_unit(p.flow, "volume_flow"), 1),
                round(p.amps, 1),
            ]
            for p in points
        ],
    )
    yield "ended", {"words": f"{len(points)} steps, all held"}


@pages.post("/builds/<slug>/prove/rig")
def rig_use(slug: str) -> Response:
    """A rig's file: its points said, or the pump put into the build by them, with the file in the
    log.
    """
    data = answers.body()
    pump, text = str(data.get("pump") or "")[:40], str(data.get("text") or "")
    found = answers.stored(slug)
    try:
        points = read_rig(text)
        element = found.build.circuit.element(pump)
        if element is None:
            raise ValueError(f"There is no {pump}.")
        new = measured_map(element, points)
    except (WrongRig, ValueError) as wrong:
        raise Refused("text", sentence(str(wrong))) from None
    if data.get("way") != "use":
        rows = [
            {
                "pressure": in_unit(p.pressure, "pressure"),
                "flow": in_unit(p.flow, "volume_flow"),
                "volts": p.volts,
                "amps": p.amps,
                "kpa": p.pressure / KPA,
            }
            for p in points
        ]
        return jsonify(points=rows, units=[unit_of("pressure"), unit_of("volume_flow")])

    def change(build: Build) -> tuple[Build, str]:
        return with_element(build, new), f"{pump} as the rig measured it"

    kept = text.encode("utf-8", "replace")
    sha256 = keep_file(kept, "text/plain", found.row["id"], "text")
    stored = answers.act(slug, data, change, "text")
    files = [
        File(name=f"{pump}-rig.csv", sha256=sha256, media="text/plain", size=max(len(kept), 1))
    ]
    keep(
        found.row["id"],
        Note(
            note=f"{pump} measured on the rig at {points[0].volts:.1f} V, {len(points)} points; put into the build.",
            files=files,
        ),
    )
    return answer(stored, data)
