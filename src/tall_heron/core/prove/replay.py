"""A log replayed: what the model says of each sample, where the two part and why, and what that
says of pump, filter and the rest.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from itertools import zip_longest

import numpy as np

from tall_heron.core.physics.slosh import Array
from tall_heron.core.prove.car import full_flow, peak_rpm
from tall_heron.core.prove.log_file import Log
from tall_heron.core.prove.predict import Predictor, Setup
from tall_heron.core.prove.rank import Ranked, Sample, Verdict, judge, sensitivity
from tall_heron.core.prove.samples import Moments, Table, Whole, moments_of, running, smooth
from tall_heron.core.prove.words import cause_words, parts_of

MOST_BINS, LEAST_IN_BIN = 24, 6
SORTED = 400  # bins, the fullest, of which those are chosen
FLOOR = 900.0  # Pa, what a median of a bin is never better than
APART_S = 0.4  # how long rail and model must part before it is marked
MOST_MARKS = 40
SHORT = {
    "worn",
    "clogged",
    "volts",
    "dead",
    "air",
}  # causes of a pump that gives too little: where one is found, what pumps have as headroom by the model says nothing
SLOW_HZ = 20.0  # below this rate nothing is said of pulsation
LOADED = 0.6  # of the way from idle to full load, from where duty is compared


@dataclass(frozen=True)
class LogMark:
    """A stretch where rail and model part: from and to [s], by how much at its worst [Pa], and why,
    in words.
    """

    start: float
    end: float
    by: float
    why: str


@dataclass(frozen=True)
class Fit:
    """What a run says of one part: its strength with its standard deviation, in words why no more
    can be said where that is so.
    """

    name: str
    words: str
    strength: float | None
    sigma: float | None
    limit: str = ""


@dataclass(frozen=True)
class Replay:
    """A log beside its model, sample by sample: rail as `read` and `said` [Pa gauge], the `spare`
    flow of the pumps over the demand [-], the demand [m3/s], duty as read and said [-], which pumps
    run as a number of each; marks, what was fitted, the `band` of pulsation [Pa] at a speed [rpm],
    causes ranked and what the run cannot tell.
    """

    log: Log
    predicted: Array
    headroom: Array
    fuel_demand: Array
    duty_said: Array
    running: Array
    marks: tuple[LogMark, ...]
    verdict: Verdict | None
    fits: tuple[Fit, ...]
    band: tuple[float, float] | None
    blind: tuple[str, ...]
    points: tuple[Sample, ...]
    solved: int

    @property
    def off(self) -> Array:
        """Rail less what is said [Pa]."""
        return self.log.figures["rail"] - self.predicted


def replay(
    predictor: Predictor,
    log: Log,
    stop: Callable[[], bool] = lambda: False,
    done: Callable[[float, str], None] = lambda *_: None,
) -> Replay | None:
    """Replay a log on its build; None where `stop` ended it. `done` is told the share that is done
    and what is being done.
    """
    m = moments_of(predictor, log)
    kelvin = log.figures.get("fuel_temperature")
    warm = (
        round(float(np.nanmedian(kelvin)), 1)
        if kelvin is not None and np.isfinite(kelvin).any()
        else None
    )
    table = Table(predictor, warm, "")
    solved_samples = table.at(m, stop, lambda x: done(0.5 * x, "solving the samples"))
    if solved_samples is None:
        return None
    predicted, headroom = solved_samples
    duty_said = _duty_said(predictor, m, predicted)
    points = _points(predictor, log, m, predicted, warm)
    done(0.55, "looking for causes")
    verdict = judge(predictor, points, stop, lambda x: done(0.55 + 0.4 * x, "looking for causes"))
    if stop():
        return None
    marks = _marks(predictor, log, m, predicted, headroom, verdict, points, warm)
    fits = _fits(verdict, headroom)
    sags = verdict is not None and bool({r.fault.kind for r in verdict.named} & SHORT)
    band = _band(log, m)
    blind = _blind(predictor, log, m, headroom, sags)
    done(1.0, "done")
    return Replay(
        log,
        predicted,
        headroom,
        m.fuel_demand,
        duty_said,
        m.stage,
        marks,
        verdict,
        fits,
        band,
        blind,
        tuple(points),
        table.solved,
    )


def _duty_said(predictor: Predictor, m: Moments, rail: Array) -> Array:
    full = full_flow(predictor.study)
    if m.asks is None or full <= 0:
        return np.full(len(rail), np.nan)
    part = predictor.study.build.circuit.of_kind("injectors")[0].figures
    at = part.commanded_at_kpa * 1000  # type: ignore[union-attr]
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.asarray(
            m.asks / full * np.sqrt(at / np.maximum(rail - m.manifold, 1.0)) + m.opening
        )


def _points(
    predictor: Predictor, log: Log, m: Moments, predicted: Array, kelvin: float | None
) -> list[Sample]:
    """The log as readings: samples that stand alike in one bin, its middle taken by medians, so
    that a bad sample moves nothing.
    """
    study, most = predictor.study, predictor.study.fuel_demand.volume_flow
    read = log.figures["rail"]
    quick = max(int(log.rate * 0.25), 1)
    moving = np.zeros(len(read), bool)
    for values, limit in ((m.manifold, 12e3), (m.fuel_demand, 0.06 * most)):
        change = np.abs(np.diff(smooth(values, 2 * quick + 1), prepend=values[:1])) * log.rate * 0.1
        moving |= change > limit
    for b in log.breaks:
        moving[b : b + quick] = True
    good = np.isfinite(predicted) & np.isfinite(read) & ~moving
    # Bins: burn, manifold, volts, acceleration, which way the demand went, stage.
    parts = [
        np.rint(m.fuel_demand / (0.08 * most)),
        np.rint((m.manifold + 110e3) / 30e3),
        np.rint(m.volts / 0.6),
        np.rint(np.minimum(m.ahead, 2.0) / 0.2),
        m.trend + 1,
        m.stage,
    ]
    key = np.zeros(len(read), np.int64)
    for p in parts:
        key = key * 512 + p.astype(np.int64) % 512
    _, first, back, count = np.unique(
        key[good], return_index=True, return_inverse=True, return_counts=True
    )
    at = np.flatnonzero(good)
    # Of bins beyond what is solved, those with most samples at each level of the demand, the highest
    # burn first.
    levels: dict[int, list[int]] = {}
    for k in np.argsort(-count, kind="stable")[:SORTED].tolist():
        if count[k] >= LEAST_IN_BIN:
            levels.setdefault(int(parts[0][at[first[k]]]), []).append(k)
    turns = zip_longest(*(levels[lv] for lv in sorted(levels, reverse=True)))
    bins = [k for turn in turns for k in turn if k is not None][:MOST_BINS]
    out: list[Sample] = []
    amps, duty, share = (log.figures.get(x) for x in ("amps", "duty", "ethanol"))
    span = study.brief.boost - study.brief.idle_manifold_kpa * 1000
    for k in bins:
        mine = at[back == k]
        bits = int(m.stage[mine[0]])
        mid = [
            float(np.median(x[mine])) for x in (m.fuel_demand, m.manifold, m.volts, m.ahead, m.rpm)
        ]
        setup = Setup(
            "rail",
            alone=running(predictor, bits),
            manifold=mid[1],
            fuel_demand=mid[0],
            volts=mid[2],
            at_pump=False,
            kelvin=kelvin,
            rpm=mid[4],
            ahead=round(mid[3], 2),
            trend=int(m.trend[mine[0]]),
        )
        exact = predictor.predict(setup)
        if exact is None:
            continue
        off = read[mine] - predicted[mine]
        center = float(np.median(off))
        wide = 1.4826 * float(np.median(np.abs(off - center)))
        out.append(
            Sample(
                setup, exact + center, math.hypot(1.25 * wide / math.sqrt(len(mine)), FLOOR), "rail"
            )
        )
        if (
            amps is not None
            and np.isfinite(amps[mine]).sum() >= LEAST_IN_BIN
            and predictor.predict(replace(setup, reads="amps"))
        ):
            i = float(np.nanmedian(amps[mine]))
            out.append(Sample(replace(setup, reads="amps"), i, 0.01 * abs(i) + 0.05, "amps"))
        if (
            duty is not None
            and m.asks is not None
            and m.measured
            and mid[1] > study.brief.idle_manifold_kpa * 1000 + LOADED * span
        ):
            asks = float(np.median(m.asks[mine]))
            there = replace(setup, reads="duty", asks=asks)
            value = float(np.median(m.fuel_demand[mine])) / full_flow(study)
            out.append(Sample(there, value, 0.03 * value + 0.003, "duty"))
    if share is not None and np.isfinite(share).sum() >= LEAST_IN_BIN:
        out.append(Sample(Setup("ethanol"), float(np.nanmedian(share)), 0.015, "ethanol"))
    return out


def _marks(
    predictor: Predictor,
    log: Log,
    m: Moments,
    predicted: Array,
    headroom: Array,
    verdict: Verdict | None,
    points: list[Sample],
    kelvin: float | None,
) -> tuple[LogMark, ...]:
    """Stretches where the rail, smoothed, parts from the model by more than may stray, and those
    where the model itself has it low.
    """
    read = smooth(log.figures["rail"], max(int(log.rate * 0.2) | 1, 3))
    rails = [p.setup for p in points if p.name == "rail"][:12]
    strays = (
        float(np.median(np.linalg.norm(sensitivity(predictor, rails), axis=1))) if rails else 2000.0
    )
    limit = 2.5 * math.hypot(strays, FLOOR)
    off = read - predicted
    wanted = predictor.study.brief.base
    sag = (
        predicted - m.manifold < 0.95 * wanted
        if not predictor.study.brief.carbureted
        else np.zeros(len(off), bool)
    )
    least = max(int(APART_S * log.rate), 2)
    out: list[LogMark] = []
    best = verdict.named[0] if verdict is not None and verdict.named else None
    for flags, by in (
        (np.abs(off) > limit, off),
        (sag & ~(np.abs(off) > limit), predicted - m.manifold - wanted),
    ):
        for a, b in _stretches(flags, log, least):
            i = a + int(np.nanargmax(np.abs(by[a:b])))
            out.append(
                LogMark(
                    float(log.time[a]),
                    float(log.time[b - 1]),
                    float(by[i]),
                    _why(predictor, m, i, float(off[i]), limit, headroom, best, kelvin),
                )
            )
    out.sort(key=lambda x: -abs(x.by) * (x.end - x.start + 0.5))
    return tuple(sorted(out[:MOST_MARKS], key=lambda x: x.start))


def _stretches(flags: Whole, log: Log, least: int) -> list[tuple[int, int]]:
    """Rows from and up to which flags stand, short lapses bridged, short ones left out; none goes
    on over a place where rows are missing.
    """
    joined: list[tuple[int, int]] = []
    for first, end in log.stretches():
        edges = first + np.flatnonzero(
            np.diff(np.concatenate([[False], flags[first:end], [False]]).astype(int))
        )
        for a, b in zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True):
            if joined and joined[-1][0] >= first and a - joined[-1][1] < least:
                joined[-1] = joined[-1][0], b
            else:
                joined.append((a, b))
    return [(a, b) for a, b in joined if b - a >= least]


def _why(
    predictor: Predictor,
    m: Moments,
    i: int,
    off: float,
    limit: float,
    headroom: Array,
    best: Ranked | None,
    kelvin: float | None,
) -> str:
    if abs(off) <= limit:
        return "the model has it low too: the pumps are at their end here"
    if best is not None:
        fuel_demand, manifold, volts, ahead = (
            float(x[i]) for x in (m.fuel_demand, m.manifold, m.volts, m.ahead)
        )
        setup = Setup(
            "rail",
            alone=running(predictor, int(m.stage[i])),
            manifold=manifold,
            fuel_demand=fuel_demand,
            volts=volts,
            at_pump=False,
            kelvin=kelvin,
            ahead=ahead,
            trend=int(m.trend[i]),
        )
        sound, with_it = predictor.predict(setup), predictor.predict(setup, best.fault)
        if (
            sound is not None
            and with_it is not None
            and abs(off - (with_it - sound)) < max(0.5 * abs(off), limit)
        ):
            return f"as where {cause_words(best.fault)}"
    nearly = np.isfinite(headroom[i]) and headroom[i] < 0.1
    return (
        "the pumps have next to no headroom here"
        if nearly and off < 0
        else "no cause that was looked for says so"
    )


def _fits(verdict: Verdict | None, headroom: Array) -> tuple[Fit, ...]:
    """Pump health and filter clogging, each taken alone, with how sure that is; widened to nothing
    where the run never asked.
    """
    if verdict is None:
        return ()
    least = float(np.nanmin(headroom)) if np.isfinite(headroom).any() else None
    out = []
    for kind, words in (("worn", "flow at rail pressure"), ("clogged", "loss against clean")):
        mine = [r for r in verdict.ranked if r.fault.kind == kind]
        if not mine:
            continue
        for r in mine[:3]:
            name = parts_of(r.fault, r.also)
            span = r.cause.most - r.cause.least
            other = bool(verdict.named) and r not in verdict.named
            alike = [x for x in verdict.named if x is not r] if r in verdict.named else []
            blind = other or bool(alike) or r.sigma is None or r.sigma > 0.3 * span
            limit = ""
            if other:
                limit = f"hidden while {cause_words(verdict.named[0].fault, verdict.named[0].also)}: mend that and run again"
            elif alike:
                limit = f"the run says the same where {' or '.join(cause_words(x.fault, x.also) for x in alike)}: one of them, not all"
            elif not verdict.sound and not verdict.named:
                blind, limit = True, "no single cause explains this run"
            elif blind:
                limit = (
                    f"the pumps always had {100 * least:.0f} % headroom or more, so nothing shows it"
                    if least is not None and least > 0.15
                    else "nothing in this run depends on it enough"
                )
            out.append(
                Fit(
                    name,
                    words,
                    None if blind else r.fault.strength,
                    None if blind else r.sigma,
                    limit,
                )
            )
    return tuple(out)


def _band(log: Log, m: Moments) -> tuple[float, float] | None:
    """The widest band of quick pressure changes, 5 to 95 of a hundred, over the engine speed it is
    met at; None where the log is too slow.
    """
    if log.rate < SLOW_HZ or "rpm" not in log.figures:
        return None
    quick = log.figures["rail"] - smooth(log.figures["rail"], int(log.rate * 0.4) | 1)
    best: tuple[float, float] | None = None
    level = np.rint(m.rpm / 400)
    for lv in np.unique(level):
        mine = quick[level == lv]
        if len(mine) < 30:
            continue
        low, high = np.nanpercentile(mine, [5, 95])
        if best is None or high - low > best[0]:
            best = float(high - low), float(400 * lv)
    return best


def _blind(
    predictor: Predictor, log: Log, m: Moments, headroom: Array, sags: bool
) -> tuple[str, ...]:
    """What a run cannot tell, in words: what was never asked of the build, and what was not logged."""
    study, f, out = predictor.study, log.figures, []
    top, most = peak_rpm(study), study.fuel_demand.volume_flow
    if "rpm" in f and float(np.nanmax(f["rpm"])) < 0.95 * top:
        out.append(
            f"nothing above {np.nanmax(f['rpm']):,.0f} rpm was logged, so the pumps' end is not tested"
        )
    if float(np.nanpercentile(m.fuel_demand, 99.5)) < 0.9 * most:
        out.append(
            f"the engine's demand never passed {100 * np.nanpercentile(m.fuel_demand, 99.5) / most:.0f} % of what it does at peak"
        )
    if np.isfinite(headroom).any() and float(np.nanmin(headroom)) > 0.1 and not sags:
        out.append(
            f"the pumps always had {100 * np.nanmin(headroom):.0f} % headroom or more: a weak pump or a filter half clogged would not show in the rail"
        )
    if "manifold" not in f:
        out.append(
            "the manifold's pressure was not logged: the full boost is taken throughout, and the regulator's reference cannot be told"
        )
    if "volts" not in f:
        out.append("voltage was not logged: what is lost in wires looks like a weak pump")
    if "duty" not in f:
        out.append(
            "injector duty was not logged: demand is calculated from speed and air, and a wrong fuel cannot be told"
        )
    if "amps" not in f:
        out.append(
            "pump current was not logged: a clogged filter and a worn pump look alike until pumps are at their end"
        )
    if "ahead" not in f:
        out.append(
            "acceleration was not logged: a bare pickup cannot be told from other short sags"
        )
    if log.rate < SLOW_HZ:
        out.append(f"{log.rate:.0f} rows a second are too slow for pulsation")
    return tuple(out)
