"""What stands when the engine does, and what is on its way, against sums by hand."""

import math

import pytest

from tall_heron.core.document.build import Build
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.study.cases.injector_duty import doses
from tall_heron.core.study.cases.pulsation import pulsation, rail_swing
from tall_heron.core.study.failures.key_off import lags, left_of, prime, restarts
from tall_heron.core.study.sections import sections
from tall_heron.core.study.study import Study, make_study

DEMO = demo_builds()


def study_of(layout: str, like: str = "bittern", **picks: object) -> Study:
    brief = DEMO[like].brief
    assert brief is not None
    made = LAYOUTS[layout]
    return make_study(
        Build(name=layout, brief=brief, circuit=made.build(brief, made.picks(**picks)))
    )


def pipe(study: Study, name: str) -> float:
    e = study.build.circuit.element(name)
    assert e is not None
    assert e.length is not None
    return math.pi / 4 * (e.figures.bore_mm / 1000) ** 2 * e.length.mm / 1000  # type: ignore[union-attr]


def test_priming_fills_the_lines_and_the_rail_at_what_the_pumps_give_into_the_open() -> None:
    study = make_study(DEMO["curlew"])
    p = prime(study)
    assert p is not None
    assert p.flow is not None
    assert p.volume == pytest.approx(pipe(study, "H2") + pipe(study, "H3") + 1e-4)
    assert p.flow > study.peak.solution.flow("P1")  # nothing to press against
    assert p.seconds == pytest.approx(p.volume / p.flow)
    assert p.keeps == "K1 and the regulator"
    assert prime(make_study(DEMO["plover"])) is None


def test_a_blend_takes_each_lines_volume_over_its_own_flow() -> None:
    study = make_study(DEMO["curlew"])
    peak = next(x for x in lags(study) if x.moment == "Peak")
    flow = study.peak.solution.flow
    hand = sum(pipe(study, h) / flow(h) for h in ("H1", "H2", "H3")) + 1e-4 / flow("RL")
    assert peak.seconds == pytest.approx(hand, rel=1e-6)
    assert left_of(15.0, 0.7, 45.0, 0.1) == pytest.approx((10.5 + 4.5) / 60)


def test_fuel_in_a_rail_boils_where_its_vapour_pressure_meets_the_rails() -> None:
    hot = {r.celsius: r for r in restarts(make_study(DEMO["dunlin"]))}
    assert hot[60.0].boils < hot[80.0].boils < hot[100.0].boils
    assert hot[60.0].holds
    assert not hot[100.0].holds  # 7 psi over a carburettor's needle


def test_a_dead_ended_rail_behind_a_check_is_shut_in_and_a_bypass_relieves_it() -> None:
    bypass = sections(make_study(DEMO["bittern"]))
    assert [(s.trapped, s.relieved_by) for s in bypass] == [(False, "PR")]
    assert bypass[0].between == ("K1", "K2", "J1", "PR")
    assert bypass[0].volume == pytest.approx(
        sum(pipe(make_study(DEMO["bittern"]), h) for h in ("H2", "H3"))
    )
    assert [
        s for s in sections(make_study(DEMO["egret"])) if s.trapped
    ] == []  # its selector lets out what warms behind it
    tight = {"V2": {"relieves": None}}
    elements = [
        e.model_copy(update={"properties": e.properties.model_copy(update=tight.get(e.id, {}))})
        for e in DEMO["egret"].circuit.elements
    ]
    hand = [
        s
        for s in sections(
            make_study(
                DEMO["egret"].model_copy(
                    update={
                        "circuit": DEMO["egret"].circuit.model_copy(update={"elements": elements})
                    }
                )
            )
        )
        if s.trapped
    ]
    assert [(s.parts, s.shut) for s in hand] == [
        (("H4", "N2", "H8"), "V2")
    ]  # its selector of the return shuts with the feed's


def test_lines_of_two_kinds_rise_as_their_compliances_add_up() -> None:
    s = next(s for s in sections(make_study(DEMO["dunlin"])) if "H2" in s.parts)
    study = make_study(DEMO["dunlin"])
    hose, hard = pipe(study, "H2"), pipe(study, "H3")
    for rise, hoses in zip(s.rise, (110e3, 450e3), strict=True):
        assert rise == pytest.approx((hose + hard) / (hose / hoses + hard / 950e3))
    assert s.relieved_by == "P1"  # seeps back


def test_a_pump_with_valves_of_its_own_does_not_seep_back() -> None:
    study = make_study(DEMO["dunlin"])
    elements = [
        e.model_copy(
            update={"properties": e.properties.model_copy(update={"passes_stopped": True})}
        )
        if e.kind == "pump"
        else e
        for e in study.build.circuit.elements
    ]
    build = study.build.model_copy(
        update={"circuit": study.build.circuit.model_copy(update={"elements": elements})}
    )
    assert any("H2" in s.parts and s.trapped for s in sections(make_study(build)))


def test_pulses_meet_lower_speeds_with_more_cylinders_softer_hoses_and_a_damper() -> None:
    p = pulsation(make_study(DEMO["bittern"]))
    assert p is not None
    assert not p.has_damper
    for b, d in zip(p.bands, p.other, strict=False):
        assert b.hertz[0] < b.hertz[1]
        assert b.rpm == pytest.approx(tuple(120 * f / 6 for f in b.hertz))
        assert d.rpm[0] < b.rpm[0]
    assert pulsation(make_study(DEMO["dunlin"])) is None
    damped = pulsation(study_of("C3"))
    assert damped is not None
    assert damped.has_damper
    assert damped.bands[0].rpm < damped.other[0].rpm
    swing = rail_swing(study_of("C3"))
    assert swing is not None
    assert max(swing.as_is) < max(swing.other)
    assert rail_swing(make_study(DEMO["dunlin"])) is None


def test_a_rail_swings_by_the_shot_over_what_gives_way_and_a_damper_takes_most_of_it() -> None:
    """Bittern at its power speed by hand: 320 L/h over 280 shots a second are 318 mm3; a damper of
    0.2 mL/bar (2e-12 m3/Pa) swings by what a train of pulses open 6 x duty of the time
    draws at its first harmonic (Fourier), over w C. Both rails of a V are felt, and the lines on
    from them; a branch to a closed end is part of the feed.
    """
    study = make_study(DEMO["bittern"])
    p = rail_swing(study)
    assert p is not None
    assert study.brief.peak_rpm is not None
    peak = study.brief.peak_rpm
    assert p.shot == pytest.approx(study.fuel_demand.volume_flow / (3 * peak / 60))
    i = min(range(len(p.rpm)), key=lambda i: abs(p.rpm[i] - peak))
    (dose,) = doses(study, study.peak)
    first = 2 * study.fuel_demand.volume_flow / (math.pi * 6 * dose.duty)
    most = 2 * first / (2 * math.pi * 3 * peak / 60 * 2e-12)
    assert p.other[i] == pytest.approx(most, rel=0.1)
    assert p.as_is[i] > 5 * p.other[i]
    both = pulsation(study_of("C1", rails="parallel"))
    assert both is not None
    assert {"H7", "H8", "H9", "H10", "RL", "RL2"} <= set(both.parts)
