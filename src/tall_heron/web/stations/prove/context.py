"""What the pages of station 8 show."""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

from flask import request

from tall_heron.core.base.catalogue import house_figure, table
from tall_heron.core.design import Design
from tall_heron.core.document.wiring import Sender
from tall_heron.core.editing.wiring import electric_pumps
from tall_heron.core.electrics.sender import best_pull_up
from tall_heron.core.prove.entry import Note, Pours, StoredEntry
from tall_heron.core.prove.predict import Setup
from tall_heron.core.prove.proof import Proof
from tall_heron.core.prove.proof_limits import limit_at
from tall_heron.core.prove.proofs import usual
from tall_heron.core.prove.rank import next_reading
from tall_heron.core.prove.sender_fit import SenderFit, fit_sender, ohms
from tall_heron.core.prove.state import Tested, model_doubt, possible
from tall_heron.core.study.cases.dyno import dyno_card
from tall_heron.web.answers import Stored
from tall_heron.web.drawing.charts.curve import CurveChart, CurveLine, Dot, make_curve_chart
from tall_heron.web.forms import reading
from tall_heron.web.frame import frame
from tall_heron.web.show.text import in_unit, number, shown, unit_of
from tall_heron.web.stations.prove.proving import (
    Proving,
    counted,
    day_of,
    day_words,
    proving,
    upkeep_of,
    verdict_of,
)
from tall_heron.web.stations.prove.run_context import run_context
from tall_heron.web.stations.prove.setup import drawn_setup
from tall_heron.web.stations.prove.words import (
    TOLD,
    cause_rows,
    entry_words,
    findings_against,
    headline,
    reason_key,
    shown_value,
    text_in,
    title_of,
)

VIEWS = {
    "tests": "Tests",
    "replay": "A run replayed",
    "live": "Live",
    "sender": "Level sender",
    "rig": "Flow rig",
    "dyno": "Dyno day",
    "upkeep": "Upkeep",
    "log": "Log",
}
SIGNS = {"within": "pass", "doubtful": "Check", "off": "Stop", "noted": "Note", "not run": ""}
CURVE_AT = (
    0.04,
    0.2,
    0.36,
    0.52,
    0.64,
    0.76,
    0.88,
    1.0,
)  # of the chart's highest pressure, where what is caught is said
LOG_PAGE = 60  # entries on one page of the log
BEYOND_BASE = 1.25  # how far the chart goes at least


def caught_at(t: Tested) -> str:
    """At what pressure fuel was or is caught; empty of any other test."""
    if "against" not in t.proof.asks or t.proof.setup is None:
        return ""
    at = t.telling.reading.conditions.get("against") if t.telling is not None else None
    return f" at {shown_value(t.proof.setup.against if at is None else at, 'pressure')}"


def allowed(p: Proving, proof: Proof) -> str:
    """What a test allows, or what it should read, in a few letters."""
    if proof.name in ("sender", "run"):
        return (
            f"at least {number(proof.limit.least)}"
            if proof.limit is not None and proof.limit.least is not None
            else ""
        )
    limit = limit_at(p.predictor.study, proof, usual(p.predictor.study, proof))
    if proof.setup is not None:
        predicted = p.predictor.predict(proof.setup)
        return shown_value(predicted, proof.quantity)
    if limit is None:
        return ""
    return (
        f"≥ {shown_value(limit.least, proof.quantity)}"
        if limit.least is not None
        else f"≤ {shown_value(limit.most, proof.quantity)}"
    )


@dataclass(frozen=True)
class AllowedBand:
    """A test's band as it is drawn, from 0 to 200 across: what is allowed from `start` to `end`, of
    which `sure` on either side of the middle is what the parts may stray; a `mark` at what was
    predicted or at the limit; and `at`, where the newest reading stands, None where there is none.
    """

    start: float
    end: float
    mark: float
    sure: float = 0.0
    at: float | None = None


MIDDLE, HALF, LIMIT, WIDE = 100.0, 60.0, 140.0, 200.0  # places of a band across


def band_of(p: Proving, t: Tested) -> AllowedBand | None:
    """The band of a test, with its newest reading; None where nothing is allowed or predicted."""
    j = t.telling
    if t.proof.setup is not None:
        whole = j.band + j.doubt if j is not None else 0.0
        if j is None or j.predicted is None or whole <= 0:
            return AllowedBand(MIDDLE - HALF, MIDDLE + HALF, MIDDLE)
        off = (j.reading.value - j.predicted) / whole
        return AllowedBand(
            MIDDLE - HALF,
            MIDDLE + HALF,
            MIDDLE,
            HALF * j.band / whole,
            _across(MIDDLE + HALF * off),
        )
    limit = limit_at(p.predictor.study, t.proof, usual(p.predictor.study, t.proof))
    if limit is None:
        return None
    value = j.reading.value if j is not None else None
    if limit.least is not None:
        least = WIDE - LIMIT
        share = value / limit.least if value is not None and limit.least else None
        return AllowedBand(
            least, WIDE, least, 0.0, None if share is None else _across(share * least)
        )
    assert limit.most is not None
    share = None if value is None else value / limit.most if limit.most else min(value, 1.0) * 1.2
    return AllowedBand(0.0, LIMIT, LIMIT, 0.0, None if share is None else _across(share * LIMIT))


def _across(x: float) -> float:
    """A place within the drawing, its dot whole."""
    return max(5.0, min(x, WIDE - 5.0))


def _page(found: Stored, made: Design, view: str) -> dict[str, Any]:
    out = frame(found, made, "prove")
    p = proving(found)
    count = counted(p)
    words = {
        "title_of": title_of,
        "shown_value": shown_value,
        "signs": SIGNS,
        "day_words": day_words,
        "day_of": day_of,
    }
    here = out["here"] if view == "tests" or request.method == "GET" else f"{out['here']}/{view}"
    for s in out["stations"]:
        if s["key"] == "prove":
            worst = (
                "Stop"
                if any(
                    t.verdict == "off" and t.proof.name in ("leak", "drips", "tank", "stop")
                    for t in count["look"]
                )
                else "Check"
                if count["look"]
                else ""
            )
            s |= {"count": len(count["look"]), "looked": bool(p.log), "worst": worst}
    return (
        out
        | words
        | {
            "here": here,
            "view": view,
            "views": VIEWS,
            "p": p,
            "count": count,
            "signed": p.folded.signed,
        }
    )


def tests_context(found: Stored, made: Design, part: str) -> dict[str, Any]:
    """The page of tests with one chosen."""
    out = _page(found, made, "tests")
    p: Proving = out["p"]
    chosen = p.row(part) or out["count"]["next"] or (p.rows[0] if p.rows else None)
    if chosen is None:
        return out | {"chosen": None, "chart": None, "bands": {}}
    proof = chosen.proof
    asks = [_ask(p, proof, name) for name in proof.asks]
    fits = {
        proof.quantity,
        "pressure" if proof.quantity == "pressure_difference" else proof.quantity,
    }
    instruments = [
        (str(r["name"]), str(r["title"]))
        for r in table("instruments")
        if r["quantity"] in fits or r["name"] == proof.row["instrument"]
    ]
    return out | {
        "chosen": chosen,
        "asks": asks,
        "instruments": instruments,
        "text_in": text_in,
        "allowed": {t.proof.key: allowed(p, t.proof) for t in p.rows},
        "caught_at": {t.proof.key: caught_at(t) for t in p.rows},
        "bands": {t.proof.key: band_of(p, t) for t in p.rows},
        "chart": _flow_chart(p, chosen)
        if proof.setup is not None and proof.setup.reads == "caught" and proof.name != "gravity"
        else None,
        "said": p.predictor.predict(proof.setup) if proof.setup is not None else proof.predicted,
        "limit": limit_at(p.predictor.study, proof, usual(p.predictor.study, proof)),
        "drawn": drawn_setup(p.predictor.study.build.circuit, proof),
        "figures": _figures(p),
        "aircraft_words": made.study.brief.use == "flight",
        "against": findings_against(made),
        "reason_key": reason_key,
        "ready": not out["count"]["look"] and out["count"]["next"] is None,
    }


def _ask(p: Proving, proof: Proof, name: str) -> dict[str, str]:
    labels = {
        "against": "At",
        "volts": "Volts at the pump",
        "source": "Volts at the battery",
        "celsius": "Fuel at",
        "applied": "Put on the nipple",
        "pitch": "Nose up, degrees",
    }
    value = usual(p.predictor.study, proof).get(name)
    if name == "pitch":
        return {"name": name, "label": labels[name], "value": f"{math.degrees(value or 0.0):g}"}
    return {
        "name": name,
        "label": labels[name],
        "value": shown(value, TOLD[name]) if value is not None else "",
    }


def _figures(p: Proving) -> list[tuple[str, str, str]]:
    """What came of it so far, as figures with their words: of the tests that were run."""
    out, base = [], p.predictor.study.brief.base
    fuel_demand = p.predictor.study.fuel_demand.volume_flow
    for name, words in (
        ("flow_all", "all pumps"),
        ("flow", "the weakest pump alone"),
        ("base", "base pressure"),
        ("hold", "rail 10 min after stop"),
    ):
        # Of what was caught at several pressures what comes nearest to the rail's.
        rows = [t for t in p.rows if t.proof.name == name and t.readings]
        nearest = [
            min(t.readings, key=lambda j: abs(j.reading.conditions.get("against", base) - base))
            for t in rows
        ]
        near = [
            (t.proof.quantity, j.reading.value, j.reading.conditions.get("against"))
            for t, j in zip(rows, nearest, strict=True)
        ]
        if near:
            quantity, least, at = min(near, key=lambda x: x[1])
            value, unit = shown_value(least, quantity).rsplit(" ", 1)
            caught = f", at {shown_value(at, 'pressure')}" if at is not None else ""
            out.append((value, unit, words + caught))
            if name == "flow_all" and fuel_demand > 0:
                out.append((number(100 * least / fuel_demand), "%", "of full-power demand"))
    return out[:4]


def _flow_chart(p: Proving, chosen: Tested) -> CurveChart:
    """What is said to be caught over pressure with its band, and what was."""
    proof, study = chosen.proof, p.predictor.study
    assert proof.setup is not None
    setup = proof.setup
    if chosen.last is not None:
        setup = (
            proof.at(
                {k: v for k, v in chosen.last.reading.conditions.items() if k != "against"}
            ).setup
            or setup
        )
    top = max(
        BEYOND_BASE * study.brief.base,
        *(1.06 * j.reading.conditions.get("against", 0.0) for j in chosen.readings),
        1.0,
    )
    pressures = [x * top for x in CURVE_AT]
    predicted = [p.predictor.predict(_against(setup, x)) for x in pressures]
    bands = [model_doubt(p.predictor, _against(setup, pressures[i])) for i in (0, 4, 7)]
    share = [
        b / s if s else 0.0
        for b, s in zip(bands, (predicted[0], predicted[4], predicted[7]), strict=True)
    ]
    wide = [
        share[0] + (share[1] - share[0]) * i / 4
        if i < 4
        else share[1] + (share[2] - share[1]) * (i - 4) / 3
        for i in range(8)
    ]
    flow, kpa = (
        [in_unit(x, "volume_flow") if x is not None else None for x in predicted],
        [in_unit(x, "pressure") for x in pressures],
    )
    low, high = (
        [x * (1 + sign * w) if x is not None else None for x, w in zip(flow, wide, strict=True)]
        for sign in (-1, 1)
    )
    dots = []
    for j in chosen.readings:
        at, caught = (
            in_unit(j.reading.conditions.get("against", setup.against or 0.0), "pressure"),
            in_unit(j.reading.value, "volume_flow"),
        )
        dots.append(
            Dot(
                at,
                caught,
                number(caught),
                {"within": "own", "doubtful": "amber"}.get(j.verdict, "rust"),
            )
        )
    lines = [
        CurveLine("predicted", flow),
        CurveLine("least allowed", low, "thin", dashed=True),
        CurveLine("most allowed", high, "thin", dashed=True),
    ]
    return make_curve_chart(
        "proof",
        f"T{proof.number} {proof.part or 'All pumps'}: predicted band and what was collected",
        unit_of("pressure"),
        unit_of("volume_flow"),
        kpa,
        lines,
        dots,
        0,
        "caught",
    )


def _against(setup: Setup, pressure: float) -> Setup:
    return replace(setup, against=pressure)


def causes_context(found: Stored, made: Design) -> dict[str, Any]:
    """The causes of what was read, and the reading to take next."""
    p = proving(found)
    verdict = verdict_of(found, p)
    if verdict is None:
        return {"verdict": None}
    nxt = (
        next_reading(p.predictor, verdict, possible(p.predictor, p.rows)) if verdict.named else None
    )
    proof = next(
        (t.proof for t in p.rows if nxt is not None and f"T{t.proof.number}" == nxt[0].name), None
    )
    return {
        "verdict": verdict,
        "rows": cause_rows(verdict),
        "next": proof,
        "apart": nxt[1] if nxt else None,
        "title_of": title_of,
        "headline": headline,
        "slug": found.row["slug"],
    }


def _sender(found: Stored, made: Design, out: dict[str, Any]) -> dict[str, Any]:
    p: Proving = out["p"]
    sender = found.build.wiring.sender if found.build.wiring is not None else Sender()
    tanks = []
    for t in p.rows:
        if t.proof.name != "sender":
            continue
        poured = p.folded.poured(t.proof.part)
        fit = sender_fit_of(poured[1], sender) if poured is not None else None
        tanks.append((t, poured, fit, _sender_chart(t.proof, fit) if fit is not None else None))
    return {
        "tanks": tanks,
        "sender": sender,
        "best": best_pull_up(sender.empty_ohm, sender.full_ohm),
        "wired": found.build.wiring is not None,
    }


def sender_fit_of(pours: Pours, sender: Sender) -> SenderFit:
    """The fit of kept pours with a divider."""
    return fit_sender(
        [
            (v, ohms(min(x, sender.supply_v * 0.9999), sender) if pours.unit == "volt" else x)
            for v, x in pours.steps
        ],
        sender,
        pours.unusable,
    )


def _sender_chart(proof: Proof, fit: SenderFit) -> CurveChart:
    places = sorted({*range(0, len(fit.curve[0]), 8), len(fit.curve[0]) - 1})
    volumes = [in_unit(float(fit.curve[0][i]), "volume") for i in places]
    lines = [CurveLine("fitted", [float(fit.curve[1][i]) for i in places])]
    straight = [
        fit.fitted[0]
        + (fit.fitted[-1] - fit.fitted[0])
        * (fit.curve[0][i] - fit.volumes[0])
        / (fit.volumes[-1] - fit.volumes[0])
        for i in places
    ]
    lines.append(CurveLine("a line would read", [float(x) for x in straight], "thin", dashed=True))
    dots = [
        Dot(in_unit(v, "volume"), o, "", "own") for v, o in zip(fit.volumes, fit.read, strict=True)
    ]
    dots += [
        Dot(in_unit(m.volume, "volume"), m.ohm, words, style)
        for m, words, style in (
            (fit.unusable, "unusable", "rust"),
            (fit.reserve, "reserve", "amber"),
        )
    ]
    return make_curve_chart(
        f"sender-{proof.part}",
        f"What the sender of {proof.part} reads",
        unit_of("volume"),
        "Ω",
        volumes,
        lines,
        dots,
        1,
        "poured",
    )


def _dyno(found: Stored, made: Design, out: dict[str, Any]) -> dict[str, Any]:
    p: Proving = out["p"]
    pulls = dyno_card(made.study)
    typed: dict[str, tuple[StoredEntry, Note]] = {}
    for k, n in p.folded.notes:
        if n.proof.startswith("dyno "):
            typed[n.proof] = (k, n)
    return {
        "pulls": pulls,
        "typed": typed,
        "stop_share": house_figure(
            "rail_error_stop_carburettor" if made.study.brief.carbureted else "rail_error_stop"
        ),
    }


def _upkeep(found: Stored, made: Design, out: dict[str, Any]) -> dict[str, Any]:
    p: Proving = out["p"]
    return {
        "due": upkeep_of(found.build, p.folded),
        "done": list(reversed(p.folded.upkeep)),
        "titles": {str(r["name"]): str(r["title"]) for r in table("upkeep")},
    }


def _log(found: Stored, made: Design, out: dict[str, Any]) -> dict[str, Any]:
    at, newest = max(reading.whole(request.args.get("page")), 1), list(reversed(out["p"].log))
    return {
        "entries": newest[(at - 1) * LOG_PAGE : at * LOG_PAGE],
        "total": len(newest),
        "at": at,
        "pages": -(-len(newest) // LOG_PAGE),
        "entry_words": entry_words,
    }


def _rig(found: Stored, made: Design, out: dict[str, Any]) -> dict[str, Any]:
    return {"pumps": electric_pumps(made.study.build), "faults": ("none", "worn", "air", "volts")}


def _run(found: Stored, made: Design, out: dict[str, Any]) -> dict[str, Any]:
    return run_context(found, made, out["p"])


CONTEXTS: dict[str, Callable[[Stored, Design, dict[str, Any]], dict[str, Any]]] = {
    "sender": _sender,
    "dyno": _dyno,
    "upkeep": _upkeep,
    "log": _log,
    "rig": _rig,
    "replay": _run,
    "live": _run,
}


def view_context(found: Stored, made: Design, view: str) -> dict[str, Any]:
    """Everything one of the other pages shows."""
    out = _page(found, made, view)
    return out | CONTEXTS[view](found, made, out)
