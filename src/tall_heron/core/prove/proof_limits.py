"""What a test allows where it hangs on the build: the pressure of the leak test, and what a hot
rail may come to.
"""

from collections.abc import Mapping

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.base.constants import CELSIUS, KPA
from tall_heron.core.physics.fuel import boils_at
from tall_heron.core.prove.proof import Proof, ProofLimit
from tall_heron.core.study.sections import Section, sections
from tall_heron.core.study.study import Study

OVER_WORKING = 1.5


SOAKED = 60 + CELSIUS  # K, fuel in a rail over a hot engine, common practice


def working_pressure(study: Study) -> float:
    """The highest pressure the lines work at [Pa gauge]: what is asked at the rail in any case of
    the brief.
    """
    return max(study.asked(s) for s in study.solved.values())


def test_pressure(study: Study) -> tuple[float, str]:
    """What joints are tested at [Pa gauge]: 1.5 times what they work at, or what their weakest part
    is made for, but never less than they work at; and why, in words.
    """
    working = working_pressure(study)
    if study.brief.carbureted:
        needle = house_figure("needle_most")
        return (
            max(min(OVER_WORKING * working, needle), working),
            "2 % of it; a float needle holds no more"
            if OVER_WORKING * working > needle
            else "2 % of it",
        )
    rated = [
        (e.properties.working_kpa * KPA, e.id)
        for e in study.build.circuit.elements
        if e.properties.working_kpa
        and e.role == "feed"
        and e.kind in ("hose", "line", "filter", "fitting", "rail")
    ]
    weakest = min(rated, default=(float("inf"), ""))
    if weakest[0] < OVER_WORKING * working:
        return max(weakest[0], working), f"2 % of it; {weakest[1]} is made for no more"
    return OVER_WORKING * working, "2 % of it"


def boiling(study: Study, kelvin: float) -> float:
    """The least pressure that keeps the season's fuel from boiling [Pa gauge]."""
    return (
        boils_at(study.fuel_demand.fuel, study.brief.season, kelvin)
        - study.peak.case.point.atmosphere
    )


def limit_at(study: Study, proof: Proof, conditions: Mapping[str, float]) -> ProofLimit | None:
    """What is allowed at what was told with a reading."""
    if proof.name == "soak":
        kelvin = conditions.get("celsius", SOAKED)
        return ProofLimit(
            max(boiling(study, kelvin), 0.0),
            _most_soaked(study),
            f"the season's fuel boils under it at {kelvin - CELSIUS:.0f} °C; {soaked(study)}",
        )
    return proof.limit


def _rail_section(study: Study) -> Section | None:
    """The section that holds the rail while the engine stands."""
    near = {e.id for e in study.build.circuit.of_kind("rail")} or {
        e.id
        for e in study.build.circuit.elements
        if e.role == "feed" and e.kind in ("hose", "line")
    }
    return next((s for s in sections(study) if not s.shut and near & set(s.parts)), None)


def soaked(study: Study) -> str:
    """What heat does to fuel that is shut into the rail, in words."""
    section = _rail_section(study)
    if section is None:
        return "what holds it shut is not known"
    rise = f"shut in it rises {section.rise[0] / KPA:.0f} to {section.rise[1] / KPA:.0f} kPa for each kelvin"
    return (
        f"{rise}, and nothing relieves it"
        if section.trapped
        else f"{rise} until {section.relieved_by} lets it on"
    )


def _most_soaked(study: Study) -> float | None:
    """What a rail that a regulator relieves may come to [Pa]: its base and a tenth; None where
    nothing relieves it, which is a finding of the circuit, or something else does.
    """
    section = _rail_section(study)
    by = study.build.circuit.element(section.relieved_by) if section is not None else None
    return 1.1 * study.brief.base if by is not None and by.kind == "regulator" else None
