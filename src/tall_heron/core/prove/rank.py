"""Which cause explains what was read: each alone is fitted to all readings together, against what
parts and instruments may stray, and ranked by its odds.
"""

import itertools
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from tall_heron.core.physics.slosh import Array
from tall_heron.core.prove.faults import Cause, Fault
from tall_heron.core.prove.predict import Predictor, Setup

ALIKE = 3.0  # odds under which two causes are not told apart
SURE = 0.95  # share of all odds from which a cause is called the likely one
FITS = 0.001  # chance under which a cause does not explain the readings, however it is ranked
WORTH = 10.0  # what a cause must gain on nothing at all before it is spoken of, in twice the log of odds: it is the best of some twenty
SAME = 0.15  # standard deviations within which two causes say the same of everything that was read
FAR = 5.0  # standard deviations at which more is no worse (Huber): one bad reading does not carry all others
NOT_CAUGHT = (
    "screw",
    "sticks",
    "slope",
    "reference",
    "pinched",
)  # what says nothing while fuel is caught with the way back shut
CLOSELY = 4  # causes, the likeliest, whose strength is looked at closely
ROUNDS, PIECES, CLOSE = (
    5,
    24,
    0.004,
)  # how often a strength is made better, in how many pieces it is looked for between two, and what share of its range is near enough
# What all readings of a sort are off by together in a sound build, one standard deviation as a
# share: an engine that breathes otherwise than the brief says, a sheet's currents. Common practice.
TOGETHER = {"duty": 0.07, "amps": 0.03}
SHOTS = 0.015  # by how much all injectors together pass more or less than their sheet, one standard deviation as a share: six or eight at 3 % each and what they were measured with; common practice
INSENSITIVE = 0.01  # of the range of a cause, under which it is none
UNLIKE = 0.5  # standard deviations that a next reading must part two causes by to be worth taking


@dataclass(frozen=True)
class Sample:
    """A reading: how the build stood, what was read and its own standard deviation, both in SI;
    `name` says which one it is.
    """

    setup: Setup
    value: float
    sigma: float
    name: str = ""


@dataclass(frozen=True)
class Ranked:
    """A cause with the strength that fits best, its standard deviation (None where it has none),
    what it leaves unexplained, its share of all odds and whether what it leaves is within what may
    stray. `also` are parts of the same kind that would say the same.
    """

    cause: Cause
    fault: Fault
    sigma: float | None
    chi2: float
    bic: float
    share: float
    explains: bool
    also: tuple[str, ...] = ()

    @property
    def there(self) -> bool:
        """Whether as much of it fits best as can be told from none: *0 % of its flow is air* is no
        cause.
        """
        c = self.cause
        return (
            c.fixed
            or math.isnan(c.sound)
            or abs(self.fault.strength - c.sound) > INSENSITIVE * (c.most - c.least)
        )


@dataclass(frozen=True)
class Verdict:
    """All causes, the likeliest first; what nothing at all leaves unexplained, its share of the
    odds, whether that is within what may stray; `found` those to be spoken of: none where nothing
    is wrong, one where it is `sure`, more where they are alike. `stopped` where the caller's clock
    ran out.
    """

    ranked: tuple[Ranked, ...]
    sound_chi2: float
    sound_share: float
    sound: bool
    named: tuple[Ranked, ...]
    sure: bool
    stopped: bool = False


def sensitivity(
    predictor: Predictor, setups: Sequence[Setup], without: Sequence[str] = ()
) -> Array:
    """How each reading strays with the tolerances of a sound build: a column for each of them, one
    standard deviation long [SI]; `without` some kinds.
    """
    columns = []
    caught = all(s.reads == "caught" for s in setups)
    for cause in predictor.causes:
        if (
            cause.sigma <= 0
            or cause.fault.kind in without
            or (caught and cause.fault.kind in NOT_CAUGHT)
        ):
            continue
        step = -1.0 if cause.fault.kind == "worn" else 1.0
        column = []
        for s in setups:
            here, there = (
                predictor.predict(s),
                predictor.predict(s, cause.fault.of(cause.sound + step * cause.sigma)),
            )
            column.append(there - here if here is not None and there is not None else 0.0)
        columns.append(column)
    if any(s.fuel_demand > 0 and s.reads != "duty" for s in setups):
        more = [
            predictor.predict(replace(s, fuel_demand=s.fuel_demand * (1 + SHOTS)))
            if s.fuel_demand > 0 and s.reads not in ("duty", "ethanol")
            else None
            for s in setups
        ]
        columns.append(
            [
                there - here
                if there is not None and (here := predictor.predict(s)) is not None
                else 0.0
                for s, there in zip(setups, more, strict=True)
            ]
        )
    for reads, share in TOGETHER.items():
        if any(s.reads == reads for s in setups):
            columns.append(
                [share * (predictor.predict(s) or 0.0) if s.reads == reads else 0.0 for s in setups]
            )
    return np.array(columns).T if columns else np.zeros((len(setups), 0))


def judge(
    predictor: Predictor,
    points: Sequence[Sample],
    time_is_up: Callable[[], bool] = lambda: False,
    report: Callable[[float], None] = lambda _: None,
) -> Verdict | None:
    """Rank all causes by some readings; None where none of them can be predicted. `time_is_up` is
    the caller's clock, `report` is given the share that is done.
    """
    points = [p for p in points if predictor.predict(p.setup) is not None]
    if not points:
        return None
    setups, read = [p.setup for p in points], np.array([p.value for p in points])
    sound = np.array([predictor.predict(s) for s in setups], float)
    astray = sensitivity(predictor, setups)
    own = np.diag(np.array([p.sigma for p in points]) ** 2)
    whiten = np.linalg.cholesky(own + astray @ astray.T)

    weigh = np.linalg.inv(whiten)

    def leaves(predicted: Array) -> Array:
        """What rows of predictions leave, one each."""
        z = np.abs((read - predicted) @ weigh.T)
        return np.asarray(np.where(z <= FAR, z**2, FAR * (2 * z - FAR)).sum(axis=-1))

    nothing, n, stopped = float(leaves(sound)), len(points), False
    rows: list[tuple[Cause, Fault, float, Array | None, Array]] = []
    for i, cause in enumerate(predictor.causes):
        if time_is_up():
            stopped = True
            break
        fault, left, slope, predicted = _fitted(
            cause, setups, sound, predictor, leaves, np.array([p.sigma for p in points])
        )
        rows.append((cause, fault, left, slope, weigh @ (predicted - sound)))
        report((i + 1) / len(predictor.causes))
    # One strength each costs ln n; one that is there or not costs the same, since the part it sits
    # in was chosen.
    price = math.log(max(n, 2)) + 1.0
    least = min([nothing, *(left + price for _, _, left, _, _ in rows)])
    odds = [math.exp(-(min(left, nothing) + price - least) / 2) for _, _, left, _, _ in rows]
    alone: list[int] = []
    also: dict[int, list[str]] = {}
    for i in sorted(range(len(rows)), key=lambda i: rows[i][2]):
        twin = next(
            (
                j
                for j in alone
                if rows[j][0].fault.kind == rows[i][0].fault.kind
                and np.abs(rows[j][4] - rows[i][4]).max()
                < max(SAME, 0.02 * np.abs(rows[j][4]).max())
            ),
            None,
        )
        if twin is None:
            alone.append(i)
        else:
            also.setdefault(twin, []).append(rows[i][0].fault.part)
    none = math.exp(-(nothing - least) / 2)
    total = none + sum(odds[i] for i in alone)
    ranked = []
    for n_th, i in enumerate(alone):
        cause, fault, left, slope, _ = rows[i]
        sigma = (
            _doubt(predictor, setups, fault, slope, own + astray @ astray.T, n_th < CLOSELY)
            if slope is not None
            else None
        )
        ranked.append(
            Ranked(
                cause,
                fault,
                sigma,
                left,
                left + price,
                odds[i] / total,
                _chance(left, max(n - 1, 1)) > FITS,
                tuple(also.get(i, ())),
            )
        )
    is_sound = _chance(nothing, n) > FITS
    best = next((r for r in ranked if r.there), None)
    if best is None or nothing - best.bic < (WORTH if is_sound else 0.0):
        return Verdict(tuple(ranked), nothing, none / total, is_sound, (), False, stopped)
    named = tuple(
        r for r in ranked if r.there and best.share < ALIKE * r.share and r.explains
    )  # what does not explain the readings is not quoted
    several = n == 1 and sum(r.explains for r in ranked) > 1  # one reading tells nothing apart
    sure = len(named) == 1 and best.share >= SURE and best.explains and not stopped and not several
    return Verdict(tuple(ranked), nothing, none / total, is_sound, named, sure, stopped)


def _chance(left: float, freedom: int) -> float:
    """The chance that as much as this is left of so many readings where a cause is so [-]: the
    upper tail of chi square.
    """
    from scipy.special import (
        chdtrc,
    )  # only who asks for causes waits for it, and for no more of scipy

    return float(chdtrc(freedom, left))


def _fitted(
    cause: Cause,
    setups: Sequence[Setup],
    sound: Array,
    predictor: Predictor,
    leaves: Callable[[Array], Array],
    sigma: Array,
) -> tuple[Fault, float, Array | None, Array]:
    """The strength that leaves least, how each reading goes with it there (None at an end of its
    range), and what it says of each. The circuit is solved at a few strengths; where between them
    least is left, on straight lines from one to the next, it is solved again, until that is where
    it was. Readings that no strength moves are not solved again.
    """
    fault, feels = cause.fault, np.ones(len(setups), bool)

    def of(strength: float) -> Array:
        out, there = sound.copy(), fault.of(strength)
        for i in np.flatnonzero(feels).tolist():
            x = predictor.predict(setups[i], there)
            out[i] = sound[i] if x is None else x
        return out

    if cause.fixed:
        predicted = of(1.0)
        return fault, float(leaves(predicted)), None, predicted
    low, high = cause.least, cause.most
    # Where a cause counts in times, what doubles it is one step.
    marks = (
        [low * (high / low) ** (i / 4) for i in range(5)]
        if fault.kind == "clogged"
        else [low + (high - low) * i / 4 for i in range(5)]
    )
    known = {x: of(x) for x in marks}
    feels = np.max([np.abs(r - sound) for r in known.values()], axis=0) > 0.01 * sigma
    for _ in range(ROUNDS if feels.any() else 0):
        x = _between(known, leaves)
        x = round(x, 2) if fault.kind == "fuel" else x
        if min(abs(x - k) for k in known) < CLOSE * (high - low):
            break
        known[x] = of(x)
    best = min(known, key=lambda x: float(leaves(known[x])))
    left, row = float(leaves(known[best])), known[best]
    h = 0.03 * (high - low)
    if not feels.any() or not low < best - h < best + h < high:
        return fault.of(best), left, None, row
    return fault.of(best), left, (of(best + h) - of(best - h)) / (2 * h), row


def _doubt(
    predictor: Predictor,
    setups: Sequence[Setup],
    fault: Fault,
    slope: Array,
    covariance: Array,
    closely: bool,
) -> float | None:
    """The standard deviation of a strength. Looked at `closely`, what pumps, injectors and volts
    stray by counts as it does with the fault there: pumps at their end feel what sound ones do not.
    A pump that gives less is felt as a demand that is more.
    """
    if closely:
        pumps = max(len(predictor.study.build.circuit.of_kind("pump")), 1)
        share = math.hypot(
            SHOTS,
            next((c.sigma for c in predictor.causes if c.fault.kind == "worn"), 0.0)
            / math.sqrt(pumps),
        )
        volts = next((c.sigma for c in predictor.causes if c.fault.kind == "volts"), 0.0)
        others = (
            [replace(s, fuel_demand=s.fuel_demand * (1 + share)) for s in setups],
            [replace(s, volts=s.volts - volts) if s.volts is not None else s for s in setups],
        )
        for there in others:
            column = np.array(
                [
                    b - a
                    if (a := predictor.predict(s, fault)) is not None
                    and (b := predictor.predict(t, fault)) is not None
                    else 0.0
                    for s, t in zip(setups, there, strict=True)
                ]
            )
            covariance = covariance + np.outer(column, column)
    known = float(slope @ np.linalg.solve(covariance, slope))
    return math.sqrt(1 / known) if known > 0 else None


def _between(known: dict[float, Array], leaves: Callable[[Array], Array]) -> float:
    """The strength at which least is left, if predictions went straight from each known strength to
    the next.
    """
    at = sorted(known)
    shares = np.linspace(0.0, 1.0, PIECES, endpoint=False)[:, None]
    strengths = np.concatenate(
        [a + shares[:, 0] * (b - a) for a, b in itertools.pairwise(at)] + [at[-1:]]
    )
    rows = np.concatenate(
        [known[a] + shares * (known[b] - known[a]) for a, b in itertools.pairwise(at)]
        + [known[at[-1]][None, :]]
    )
    return float(strengths[int(np.argmin(leaves(rows)))])


def next_reading(
    predictor: Predictor, verdict: Verdict, possible: Sequence[Sample]
) -> tuple[Sample, float] | None:
    """Of the readings that one can take the one that parts the two likeliest causes most, and by
    how many standard deviations; None where none would. Where only one cause is there, or none, the
    second is a sound build.
    """
    faults = [r.fault for r in verdict.ranked[:2]]
    faults = (
        [*faults, Fault("none")][:2]
        if len(verdict.named) > 1
        else [*(r.fault for r in verdict.named[:1]), Fault("none")]
    )
    if len(faults) < 2:
        return None
    best: tuple[Sample, float] | None = None
    for p in possible:
        one, other = (predictor.predict(p.setup, f) for f in faults)
        if one is None or other is None:
            continue
        far = abs(one - other) / p.sigma
        if far > (best[1] if best else UNLIKE):
            best = p, far
    return best
