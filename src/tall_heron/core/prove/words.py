"""Causes and verdicts in words."""

from tall_heron.core.base.catalogue import by_name
from tall_heron.core.prove.faults import Fault


def cause_words(fault: Fault, also: tuple[str, ...] = ()) -> str:
    """A cause with the part it sits in, `also` those that would say the same."""
    part = " or ".join([fault.part, *also]) if fault.part else ""
    return str(by_name("causes")[fault.kind]["words"]).replace("{part}", part.replace(" ", ", ") if not also else part)
