"""Rules on what nobody has measured: lengths, clocks, heights."""

from collections.abc import Iterator

from tall_heron.core.document.kinds import LINES, PIPES
from tall_heron.core.document.sources import guesses_of
from tall_heron.core.rules.finding import Finding
from tall_heron.core.rules.rule import Rule, has
from tall_heron.core.study.study import Study

MOST_NAMED = 4  # places in a sentence


def length_assumed(study: Study) -> Iterator[Finding]:
    """A guessed length is not one to cut to."""
    for name in guesses_of(study.build.circuit).lengths:
        what, do = "Nobody has measured it yet.", "Measure seat to seat before you cut."
        yield Finding("Note", name, f"{name} has a guessed length", what, do, station="hoses")


def clock_assumed(study: Study) -> Iterator[Finding]:
    """A guessed clock is not one to tighten to."""
    for name in guesses_of(study.build.circuit).clocks:
        what, do = "Nobody has seen yet how its two bent ends stand to each other.", "Hold both ends in place, then type the angle."
        yield Finding("Note", name, f"{name} has a guessed clock", what, do, station="hoses")


def heights_assumed(study: Study) -> Iterator[Finding]:
    """Heights decide over suction and over all that falls; one finding for all of them."""
    guesses = guesses_of(study.build.circuit)
    places = [*guesses.heights, *(f"the level in {x}" for x in guesses.levels)]
    if places:
        more = f" and {len(places) - MOST_NAMED} more" if len(places) > MOST_NAMED else ""
        at = next((e.id for e in study.build.circuit.elements if set(e.ports.values()) & set(guesses.heights) or e.id in guesses.levels), "")
        names = ", ".join(places[:MOST_NAMED]) + more
        why = f"The layout assumed them: {names}."
        yield Finding("Note", at, "Heights are guessed", why, "Measure from any one datum; type them on the parts' cards.")


RULES = (
    Rule("H-08", "Lengths are measured, not guessed.", "common practice", length_assumed, has(*PIPES)),
    Rule("H-10", "Clocks are measured, not guessed.", "common practice", clock_assumed, has(*LINES)),
    Rule("L-24", "Heights and levels are measured, not guessed.", "common practice", heights_assumed, has("tank")),
)
