"""Where a build's proving stands: its log folded, corrections applied; each test with its readings,
its verdict and its arithmetic.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from tall_heron.core.base.arithmetic import format_number
from tall_heron.core.base.catalogue import by_name
from tall_heron.core.base.constants import CELSIUS, KPA, LPH
from tall_heron.core.prove.amount import Caught
from tall_heron.core.prove.entry import (
    AnyEntry,
    Correction,
    Match,
    Note,
    Pours,
    Reading,
    RunEntry,
    SignOff,
    StoredEntry,
    Upkeep,
)
from tall_heron.core.prove.faults import gauge_span
from tall_heron.core.prove.predict import Predictor, Setup
from tall_heron.core.prove.proof import Proof, ProofLimit
from tall_heron.core.prove.proof_limits import limit_at
from tall_heron.core.prove.rank import Sample, sensitivity

VACUUM_SPAN = 100e3  # Pa
NOT_RUN, WITHIN, DOUBTFUL, OFF, NOTED = "not run", "within", "doubtful", "off", "noted"
WORST = (OFF, DOUBTFUL, WITHIN, NOTED, NOT_RUN)
TWO = 2.0  # bands are two standard deviations
MATCHED = 0.005  # how far the spread of injectors on one bench may be off, common practice


@dataclass(frozen=True)
class Judged:
    """A reading beside what was said: `said` and how far model and instrument may be off [SI, two
    standard deviations each], the verdict, and the arithmetic.
    """

    number: int
    at: str
    reading: Reading
    predicted: float | None
    band: float
    doubt: float
    verdict: str
    steps: tuple[str, ...]
    corrected: bool = False

    @property
    def miss(self) -> float | None:
        """Read less said [SI]."""
        return None if self.predicted is None else self.reading.value - self.predicted

    @property
    def share(self) -> float | None:
        """The same of what was said [-]."""
        return self.miss / abs(self.predicted) if self.miss is not None and self.predicted else None


@dataclass(frozen=True)
class Tested:
    """A test with its readings, the newest last, and its verdict: the worst of the last reading at
    each place it was read at.
    """

    proof: Proof
    readings: tuple[Judged, ...]
    verdict: str
    notes: tuple[tuple[int, str], ...] = ()

    @property
    def last(self) -> Judged | None:
        """The newest reading."""
        return self.readings[-1] if self.readings else None

    @property
    def telling(self) -> Judged | None:
        """The newest reading that has the test's verdict."""
        return next((j for j in reversed(self.readings) if j.verdict == self.verdict), self.last)


@dataclass(frozen=True)
class Folded:
    """A log with its corrections applied: readings, pours, matches and runs that stand, by number;
    notes, upkeep and signatures; and what each correction took the place of.
    """

    readings: tuple[tuple[StoredEntry, Reading], ...]
    pours: tuple[tuple[StoredEntry, Pours], ...]
    matches: tuple[tuple[StoredEntry, Match], ...]
    runs: tuple[tuple[StoredEntry, RunEntry], ...]
    notes: tuple[tuple[StoredEntry, Note], ...]
    upkeep: tuple[tuple[StoredEntry, Upkeep], ...]
    signatures: tuple[tuple[StoredEntry, SignOff], ...]
    corrected: dict[int, int]

    def poured(self, tank: str) -> tuple[StoredEntry, Pours] | None:
        """How a tank's sender was poured last."""
        return next((row for row in reversed(self.pours) if row[1].proof == f"sender {tank}"), None)

    def matched(self, proof: str) -> tuple[StoredEntry, Match] | None:
        """What the injectors gave last in a test."""
        return next((row for row in reversed(self.matches) if row[1].proof == proof), None)

    @property
    def signed(self) -> tuple[StoredEntry, SignOff] | None:
        """The first signature of whoever built it; it freezes the build."""
        return self.signatures[0] if self.signatures else None


def folded(log: Sequence[StoredEntry]) -> Folded:
    """A log as it stands."""
    corrected: dict[int, int] = {}
    instead: dict[int, AnyEntry] = {}
    for k in log:
        if isinstance(k.entry, Correction):
            corrected[k.entry.corrects] = k.number
            if k.entry.instead is not None:
                instead[k.number] = k.entry.instead
    stands: dict[type, list[tuple[StoredEntry, AnyEntry]]] = {}
    for k in log:
        if k.number not in corrected:
            entry = instead.get(k.number, k.entry)
            stands.setdefault(type(entry), []).append((k, entry))

    def of(kind: type) -> tuple[tuple[StoredEntry, AnyEntry], ...]:
        return tuple(stands.get(kind, ()))

    return Folded(
        of(Reading),  # type: ignore[arg-type]
        of(Pours),  # type: ignore[arg-type]
        of(Match),  # type: ignore[arg-type]
        of(RunEntry),  # type: ignore[arg-type]
        of(Note),  # type: ignore[arg-type]
        of(Upkeep),  # type: ignore[arg-type]
        of(SignOff),  # type: ignore[arg-type]
        corrected,
    )


def instrument_doubt(
    predictor: Predictor, name: str, proof: Proof, value: float, caught: Caught | None = None
) -> float:
    """How far an instrument may be off at a reading [SI]: by its row of instruments.csv."""
    row = by_name("instruments").get(name) or by_name("instruments")[str(proof.row["instrument"])]
    span = VACUUM_SPAN if row["name"] == "vacuum" else gauge_span(predictor.study)
    if row["quantity"] == "volume_flow":
        seconds = caught.seconds if caught is not None and caught.seconds else 60.0
        share = 0.3 / seconds
        if row["name"] == "scale":
            mass = (
                caught.mass
                if caught is not None and caught.mass
                else max(value * seconds * predictor.study.fuel_demand.density, 1e-6)
            )
            return abs(value) * math.hypot(share, float(row["absolute"]) / mass)
        return abs(value) * math.hypot(share, float(row["share"]))
    return abs(value) * float(row["share"]) + span * float(row["of_full"]) + float(row["absolute"])


def model_doubt(predictor: Predictor, setup: Setup) -> float:
    """How far a prediction may be off [SI], two standard deviations: parts within the tolerances of
    their sheets, each solved at its end; the gauge that reads it apart.
    """
    return TWO * float(np.linalg.norm(sensitivity(predictor, [setup], without=("gauge",))))


def judged(
    predictor: Predictor,
    proof: Proof,
    reading: Reading,
    number: int = 0,
    at: str = "",
    corrected: bool = False,
) -> Judged:
    """A reading judged at what was told with it."""
    there = proof.at(reading.conditions)
    predicted = predictor.predict(there.setup) if there.setup is not None else proof.predicted
    band = (
        model_doubt(predictor, there.setup)
        if there.setup is not None and predicted is not None
        else 0.0
    )
    limit = limit_at(predictor.study, proof, reading.conditions)
    verdict, steps = NOTED, []
    if there.setup is not None and predicted is not None:
        miss = abs(reading.value - predicted)
        verdict = WITHIN if miss <= band else DOUBTFUL if miss <= band + reading.doubt else OFF
    if limit is not None:
        by_limit = _against(limit, reading.value, reading.doubt)
        verdict = by_limit if verdict == NOTED else min(verdict, by_limit, key=WORST.index)
    steps += _steps(predictor, there, reading, predicted, band, limit)
    return Judged(
        number, at, reading, predicted, band, reading.doubt, verdict, tuple(steps), corrected
    )


def _against(limit: ProofLimit, value: float, doubt: float) -> str:
    short = max(
        (limit.least - value) if limit.least is not None else -math.inf,
        (value - limit.most) if limit.most is not None else -math.inf,
    )
    return WITHIN if short <= 0 else DOUBTFUL if short <= doubt else OFF


SCALES = {  # what arithmetic is shown in
    "volume_flow": (LPH, "L/h"),
    "pressure": (KPA, "kPa"),
    "pressure_difference": (KPA, "kPa"),
    "vacuum": (KPA, "kPa"),
    "voltage": (1.0, "V"),
    "current": (1.0, "A"),
    "duration": (1.0, "s"),
    "volume": (1e-3, "L"),
    "share": (0.01, "%"),
    "level": (1.0, "dB"),
    "count": (1.0, ""),
}


def _steps(
    predictor: Predictor,
    proof: Proof,
    reading: Reading,
    predicted: float | None,
    band: float,
    limit: ProofLimit | None,
) -> list[str]:
    scale, unit = SCALES[proof.quantity]

    def f(x: float) -> str:
        return f"{format_number(x / scale, 4)} {unit}".strip()

    out = [reading.typed["steps"]] if "steps" in reading.typed else []
    s = proof.setup
    if predicted is not None and s is not None:
        where = [f"{format_number(s.against / KPA)} kPa"] if s.against is not None else []
        where += (
            [f"{format_number(s.volts)} V {'at the pump' if s.at_pump else 'at the battery'}"]
            if s.volts is not None
            else []
        )
        where += [f"{s.kelvin - CELSIUS:.0f} °C"] if s.kelvin is not None else []
        out.append(
            f"predicted: {f(predicted)}, the circuit solved at {', '.join(where)}, ± {f(band)} by tolerances of its parts"
        )
        out.append(
            f"read − predicted = {f(reading.value)} − {f(predicted)} = {f(reading.value - predicted)}"
            + (
                f", {format_number(100 * (reading.value - predicted) / abs(predicted))} %"
                if predicted
                else ""
            )
        )
    elif predicted is not None:
        out.append(f"predicted: {f(predicted)}; read: {f(reading.value)}")
    out.append(f"the instrument may be off by {f(reading.doubt)}")
    if limit is not None:
        bounds = [
            f"at least {f(limit.least)}" if limit.least is not None else "",
            f"at most {f(limit.most)}" if limit.most is not None else "",
        ]
        out.append(f"allowed: {', '.join(x for x in bounds if x)} ({limit.why})")
    return out


def tested(predictor: Predictor, proofs: Sequence[Proof], log: Folded) -> list[Tested]:
    """Each test with what was read."""
    out, notes = [], dict[str, list[tuple[int, str]]]()
    for k, n in log.notes:
        notes.setdefault(n.proof, []).append((k.number, n.note))
    for p in proofs:
        mine = [
            judged(predictor, p, r, k.number, k.at, k.number in log.corrected.values())
            for k, r in log.readings
            if r.proof == p.key
        ]
        if (conditions := _last_reading(p, log)) is not None:
            k, reading = conditions
            mine = [judged(predictor, p, reading, k.number, k.at)]
        if p.name == "run" and log.runs:
            run = log.runs[-1][1]
            mine = [
                replace(mine[0], verdict=OFF if run.sure else DOUBTFUL if run.named else WITHIN)
            ]
        out.append(
            Tested(
                p,
                tuple(mine),
                _verdict(mine),
                tuple(notes.get(p.key, ())),
            )
        )
    return out


def _last_reading(p: Proof, log: Folded) -> tuple[StoredEntry, Reading] | None:
    """What the newest match, pours or run says as a reading of its test; None where there is none."""

    def reading(e: Match | Pours | RunEntry, value: float, doubt: float = 0.0) -> Reading:
        return Reading(proof=p.key, value=value, doubt=doubt, note=e.note, by=e.by)

    if p.name == "match" and (matched := log.matched(p.key)) is not None:
        return matched[0], reading(matched[1], matched[1].spread, MATCHED)
    if p.name == "sender" and (poured := log.poured(p.part)) is not None:
        return poured[0], reading(poured[1], len(poured[1].steps))
    if p.name == "run" and log.runs:
        k, run = log.runs[-1]
        return k, reading(run, len(log.runs))
    return None


def _verdict(readings: Sequence[Judged]) -> str:
    """The worst of the newest reading at each place: a later one at the same conditions takes the
    place of an earlier.
    """
    newest: dict[tuple[tuple[str, float], ...], Judged] = {}
    for j in readings:
        newest[
            tuple(
                sorted(
                    (k, round(v, 4 if abs(v) < 10 else 1))
                    for k, v in j.reading.conditions.items()
                    if k in ("against", "applied")
                )
            )
        ] = j
    return min((j.verdict for j in newest.values()), key=WORST.index, default=NOT_RUN)


def points(predictor: Predictor, rows: Sequence[Tested]) -> list[Sample]:
    """All readings that a circuit predicts, for the causes to explain."""
    out = []
    for t in rows:
        for j in t.readings:
            setup = t.proof.at(j.reading.conditions).setup
            if setup is not None and j.predicted is not None:
                out.append(
                    Sample(
                        setup,
                        j.reading.value,
                        max(j.doubt / TWO, 1e-9, 1e-3 * abs(j.predicted)),
                        f"T{t.proof.number}",
                    )
                )
    return out


def possible(predictor: Predictor, rows: Sequence[Tested]) -> list[Sample]:
    """Readings that one could take next: every test that a circuit predicts and nobody has run, as
    it is usually read.
    """
    out = []
    for t in rows:
        if t.verdict != NOT_RUN:
            continue
        setup = t.proof.setup
        predicted = predictor.predict(setup) if setup is not None else None
        if setup is not None and predicted is not None:
            doubt = instrument_doubt(predictor, str(t.proof.row["instrument"]), t.proof, predicted)
            out.append(Sample(setup, predicted, max(doubt / TWO, 1e-9), f"T{t.proof.number}"))
    return out
