"""Law 2, advice works: each fix, done on a build opened anew, clears its finding and brings no new
Stop, and no fix brings back what another cleared. `python tests/judgement/test_fixes.py` counts
them over all builds here and 200 at random.
"""

import sys
from collections import Counter
from pathlib import Path

import pytest

HERE = Path(__file__).parent
sys.path.insert(0, str(HERE))
sys.path.insert(0, str(HERE.parent / "kit"))

from altered import altered  # noqa: E402
from test_judgement import MISTAKES, SOUND, mistaken, sound  # noqa: E402

from tall_heron.core.document.build import Build, dump, load  # noqa: E402
from tall_heron.core.fixing.fixes import CANDIDATES, EVERY, Fix, fix_of, lacking  # noqa: E402
from tall_heron.core.rules import every_cause, every_finding  # noqa: E402
from tall_heron.core.rules.finding import AGAINST, Finding  # noqa: E402
from tall_heron.core.study.study import Study, make_study  # noqa: E402

QUICK = range(3, len(MISTAKES), 14)  # of them in every run; all of them in the sweep
SEEDS = range(7_000, 7_200)


def opened(build: Build) -> Study:
    return make_study(load(dump(build)))


def against(study: Study) -> list[Finding]:
    """What stands against it, what only follows from something worse left out."""
    return [f for f in every_finding(study) if f.level in AGAINST]


def stops(study: Study) -> set[tuple[str, str]]:
    return {(f.rule, f.element_id) for f in every_cause(study) if f.level == "Stop"}


def held(build: Build) -> tuple[Counter[str], Counter[str]]:
    """Rules of findings with a fix and without, every fix of a build looked at."""
    study = opened(build)
    before, met, without = stops(study), Counter[str](), Counter[str]()
    for finding in against(study):
        fix = fix_of(study, finding)
        if fix is None:
            without[finding.rule] += 1
            continue
        met[finding.rule] += 1
        after = opened(fix.build)
        left = every_cause(after)
        assert (finding.rule, finding.element_id) not in {
            (f.rule, f.element_id) for f in left if f.level in AGAINST
        }, (finding.rule, fix.words)
        assert {(f.rule, f.element_id) for f in left if f.level == "Stop"} <= before, (
            finding.rule,
            fix.words,
        )
        assert fix.words
        _not_undone(finding, fix, after, study)
    return met, without


def _not_undone(finding: Finding, fix: Fix, after: Study, before: Study) -> None:
    """What is found only since is not mended by bringing back what was cleared."""
    known = {(f.rule, f.element_id) for f in every_cause(before)}
    for new in [f for f in against(after) if (f.rule, f.element_id) not in known][:3]:
        other = fix_of(after, new)
        if other is not None:
            assert (
                other.build.circuit != before.build.circuit
                or other.build.wiring != before.build.wiring
            ), (finding.rule, fix.words, new.rule, other.words)
            back = {
                (f.rule, f.element_id)
                for f in every_cause(opened(other.build))
                if f.level in AGAINST
            }
            assert (finding.rule, finding.element_id) not in back, (
                finding.rule,
                fix.words,
                new.rule,
                other.words,
            )


def test_every_rule_that_has_acts_is_a_rule() -> None:
    assert set(CANDIDATES) <= set(EVERY)


@pytest.mark.parametrize("i", QUICK, ids=[MISTAKES[i]["name"] for i in QUICK])
def test_a_fix_works(i: int) -> None:
    held(mistaken(MISTAKES[i]))


@pytest.mark.parametrize("seed", SEEDS[:2])
def test_a_fix_works_on_builds_that_nobody_lays_out(seed: int) -> None:
    held(altered(seed))


def test_what_nothing_clears_says_what_would_have_to_exist() -> None:
    study = opened(sound("methanol-mechanical-2500"))
    finding = next(f for f in against(study) if f.rule == "P-06")
    assert fix_of(study, finding) is None
    words, figures = lacking(study, finding)
    assert "each would have to pass {needs}" in words
    assert figures["needs"].value > figures["best"].value


@pytest.mark.sweep
def test_every_fix_of_every_build_works() -> None:
    met, without = _count()
    assert sum(met.values()) > 4 * sum(without.values())


def _count() -> tuple[Counter[str], Counter[str]]:
    met, without = Counter[str](), Counter[str]()
    for build in [
        *(sound(r["name"]) for r in SOUND),
        *(mistaken(r) for r in MISTAKES),
        *(altered(s) for s in SEEDS),
    ]:
        some, none = held(build)
        met += some
        without += none
    return met, without


if __name__ == "__main__":
    found, lacks = _count()
    print(f"{sum(found.values())} findings with a fix that works: {dict(found.most_common())}")
    print(f"{sum(lacks.values())} without: {dict(lacks.most_common())}")
