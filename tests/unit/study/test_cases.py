"""When a staged pump runs, against the duty reckoned by hand."""

import pytest

from tall_heron.core.document.circuit import Stage
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.fields import set_stage
from tall_heron.core.study.study import make_study

BITTERN = demo_builds()["bittern"]


def rests(stage: Stage) -> dict[str, bool]:
    return {
        key: "P2" in s.case.point.off
        for key, s in make_study(set_stage(BITTERN, "P2", stage)).solved.items()
    }


def test_a_stage_by_duty_goes_by_what_is_commanded() -> None:
    """Duty = what is asked over count x rated x root of (base over rated pressure, sheet's density
    over the fuel's): Q ~ sqrt(dp / rho).
    """
    study, injectors = make_study(BITTERN), BITTERN.circuit.of_kind("injectors")[0].figures
    density = study.peak.case.fuel.density(study.brief.fuel_temperature)
    full = (
        injectors.count
        * injectors.rated_lph
        * (
            injectors.commanded_at_kpa
            / injectors.rated_kpa
            * injectors.rated_density_kg_m3
            / density
        )
        ** 0.5
    )  # type: ignore[union-attr, operator]
    duty = study.peak.case.demand * 3.6e6 / full
    assert 0.3 < duty < 1
    for at, off in ((duty * 0.999, False), (duty * 1.001, True)):
        assert rests(Stage(by="duty", at=at)) == {"peak": off, "low voltage": off, "idle": True}


def test_a_switch_is_thrown_for_full_power_and_a_duty_is_a_share() -> None:
    assert rests(Stage(by="switch")) == {"peak": False, "low voltage": False, "idle": True}
    with pytest.raises(ValueError, match="at most 100 %"):
        Stage(by="duty", at=1.2)
