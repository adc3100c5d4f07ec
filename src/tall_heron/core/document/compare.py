"""What differs between two builds: fields of the brief, and parts."""

from dataclasses import dataclass

from tall_heron.core.document.build import Brief, Build
from tall_heron.core.document.circuit import Element


@dataclass(frozen=True)
class BuildDifference:
    """A field of the brief (`part` empty) or a part, with what it is on either side; empty where it
    is not there.
    """

    part: str
    field: str
    before: str
    after: str


def describe(element: Element | None) -> str:
    """A part in a few words: what it is, how long, its ends."""
    if element is None:
        return ""
    words = [element.title or element.kind]
    if element.length is not None:
        words.append(f"{element.length.mm:,.0f} mm")
    angles = [f"{end.angle_deg:g}°" for end in (element.end_a, element.end_b) if end is not None]
    if angles:
        words.append(" and ".join(angles))
    if element.reversed:
        words.append("reversed")
    return ", ".join(words)


def brief_differences(before: Build, after: Build) -> list[str]:
    """The names of the brief's fields that differ."""
    if before.brief is None or after.brief is None:
        return []
    return [
        name
        for name in Brief.model_fields
        if getattr(before.brief, name) != getattr(after.brief, name)
    ]


def part_differences(before: Build, after: Build) -> list[BuildDifference]:
    """The parts that differ, in the order of the later build, then those it lacks."""
    one, other = ({e.id: e for e in build.circuit.elements} for build in (before, after))
    rows = []
    for name in [*other, *(x for x in one if x not in other)]:
        a, b = one.get(name), other.get(name)
        if a != b:
            before_text, after_text = describe(a), describe(b)
            if before_text == after_text:
                before_text, after_text = (
                    f"{before_text} (other figures)",
                    f"{after_text} (other figures)",
                )
            rows.append(BuildDifference(name, "", before_text, after_text))
    return rows
