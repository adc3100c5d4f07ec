"""Rules on what nobody has measured: lengths, clocks, heights."""

from collections.abc import Iterator

from tall_heron.core.document.figures import Displacement
from tall_heron.core.document.kinds import LINES, PIPES
from tall_heron.core.document.sources import guesses_of
from tall_heron.core.rules.finding import Finding
from tall_heron.core.rules.rule import Rule, has
from tall_heron.core.rules.words import does, listed
from tall_heron.core.study.study import Study


def length_assumed(study: Study) -> Iterator[Finding]:
    """A guessed length is not one to cut to; one finding for all of them."""
    names = guesses_of(study.build.circuit).lengths
    if names:
        title = (
            f"{names[0]} has a guessed length"
            if len(names) == 1
            else f"{len(names)} guessed lengths: {listed(names)}"
        )
        yield Finding(
            "Note",
            names[0],
            title,
            "Nobody has measured yet.",
            "Measure seat to seat before you cut.",
            station="hoses",
        )


def clock_assumed(study: Study) -> Iterator[Finding]:
    """A guessed clocking angle is not one to tighten to; one finding for all of them."""
    names = guesses_of(study.build.circuit).clocks
    if names:
        title = (
            f"{names[0]} has a guessed clocking angle"
            if len(names) == 1
            else f"{len(names)} guessed clocking angles: {listed(names)}"
        )
        what = "Nobody has seen yet how the two bent ends stand to each other."
        yield Finding(
            "Note",
            names[0],
            title,
            what,
            "Hold both ends in place, then type the angle.",
            station="hoses",
        )


def heights_assumed(study: Study) -> Iterator[Finding]:
    """Heights decide over suction and over all that falls; one finding for all of them."""
    guesses = guesses_of(study.build.circuit)
    places = [*guesses.heights, *(f"the level in {x}" for x in guesses.levels)]
    if places:
        at = next(
            (
                e.id
                for e in study.build.circuit.elements
                if set(e.ports.values()) & set(guesses.heights) or e.id in guesses.levels
            ),
            "",
        )
        why = f"The layout assumed them: {listed(places)}."
        yield Finding(
            "Note",
            at,
            "Heights are guessed",
            why,
            "Measure from any one datum; type them on the parts' cards.",
        )


def speed_assumed(study: Study) -> Iterator[Finding]:
    """A pump on the engine gives by its speed; one finding for all of them."""
    turned = [
        e.id for e in study.build.circuit.of_kind("pump") if isinstance(e.figures, Displacement)
    ]
    if turned and study.brief.peak_rpm is None:
        rpm = study.peak.case.point.engine_rpm
        yield Finding(
            "Note",
            turned[0],
            f"{does(turned, 'turns', 'turn')} with the engine, at a guessed {rpm:,.0f} rpm",
            "It gives in proportion to its speed: at a tenth less, a tenth less fuel.",
            "Type the speed at peak power under Brief.",
        )


RULES = (
    Rule(
        "H-08", "Lengths are measured, not guessed.", "common practice", length_assumed, has(*PIPES)
    ),
    Rule(
        "H-10",
        "Clocking angles are measured, not guessed.",
        "common practice",
        clock_assumed,
        has(*LINES),
    ),
    Rule(
        "L-24",
        "Heights and levels are measured, not guessed.",
        "common practice",
        heights_assumed,
        has("tank"),
    ),
    Rule(
        "P-24",
        "The speed of a pump on the engine is known, not guessed.",
        "common practice",
        speed_assumed,
        has("pump"),
    ),
)
