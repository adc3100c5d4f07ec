"""Causes and verdicts in words."""

from tall_heron.core.base.catalogue import by_name
from tall_heron.core.prove.faults import Fault


def parts_of(fault: Fault, also: tuple[str, ...] = ()) -> str:
    """The part of a cause and those that would say the same; of all together and each alone the
    ones alone.
    """
    parts = [fault.part, *also]
    alone = [p for p in parts if " " not in p]
    return " or ".join(alone if alone and len(parts) > 1 else [p.replace(" ", ", ") for p in parts])


def cause_words(fault: Fault, also: tuple[str, ...] = ()) -> str:
    """A cause with the part it sits in, `also` those that would say the same."""
    return str(by_name("causes")[fault.kind]["words"]).replace("{part}", parts_of(fault, also))
