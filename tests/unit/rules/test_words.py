"""Every finding of both signs, and of one, two and three parts: no figure without its sign, no verb
that does not go with its parts.
"""

import re

import pytest
from markupsafe import Markup

from tall_heron.core.document.build import Brief, Build
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.fields import set_brief
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.editing.topology import second_pump
from tall_heron.core.rules import check
from tall_heron.core.study.study import make_study
from tall_heron.web.show.text import finding_text

ROAD = {"base_kpa": 400.0, "fuel": "E10", "cylinders": 6}


def pumps(count: int, kw: float) -> Build:
    brief = Brief.model_validate(ROAD | {"power_kw": kw})
    layout = LAYOUTS["C1"]
    build = Build(
        name="x",
        brief=brief,
        circuit=layout.build(brief, layout.picks(pumps=("marrow-340",) * min(count, 2))),
    )
    return second_pump(build, "P2")[0] if count > 2 else build


def texts(build: Build) -> list[tuple[str, str]]:
    found = check(make_study(build))[0]
    return [
        (
            f.rule,
            re.sub(
                r"<[^>]+>",
                "",
                str(Markup(" ").join(finding_text(f, x) for x in ("title", "why", "do"))),
            ),
        )
        for f in found
    ]


@pytest.mark.parametrize("count", [1, 2, 3])
@pytest.mark.parametrize("times", [0.4, 0.97, 1.4], ids=["ample", "scarce", "short"])
def test_findings_speak_of_their_parts_as_one_or_several(count: int, times: float) -> None:
    build = pumps(count, 100.0)
    study = make_study(build)
    kw = 100.0 * study.capacity(study.peak) / study.peak.case.demand * times
    said = texts(pumps(count, kw))
    for rule, text in said:
        assert (
            not re.search(r"\bP\d (have|fall|feed)\b", re.sub(r"P\d,? (and )?P\d", "PP", text))
            or count > 1
        ), (rule, text)
        assert not re.search(r"and P\d (has|falls|feeds)\b", text), (rule, text)
        assert (
            "to spare over the demand" not in text or "−" not in text.split("to spare")[0][-8:]
        ), (rule, text)
    margin = [t for r, t in said if r == "P-01"]
    assert bool(margin) == (times > 0.5)
    if times > 1:
        assert any("short" in t or "cannot keep up" in t for t in margin)


@pytest.mark.parametrize(("kw", "says"), [(283.0, "fall"), (160.0, "headroom")])
def test_gravity_says_short_or_to_spare(kw: float, says: str) -> None:
    build = set_brief(demo_builds()["plover"], "power_kw", kw)
    study = make_study(build)
    headroom = study.headroom(study.peak)
    assert headroom is not None
    text = next((t for r, t in texts(build) if r == "P-15"), "")
    assert text
    assert ("short of the demand" in text) == (headroom < 0)
    assert (says in text) or headroom >= 0.5


@pytest.mark.parametrize("temperature", [40.0, 75.0])
def test_suction_says_clear_of_boiling_or_past_it(temperature: float) -> None:
    build = set_brief(demo_builds()["bittern"], "fuel_temperature_c", temperature)
    study = make_study(build)
    clear = study.tightest_suction()
    assert clear is not None
    said = next((t for r, t in texts(build) if r == "S-01"), "")
    assert ("boils:" in said) == (clear[0] < 0)
    assert "−" not in said.split("boils of")[0].split(".")[0]
    assert ("No line or pre-filter clears it" in said) == (
        temperature > 70
    )  # 75 degC of avgas boils in the tank itself
