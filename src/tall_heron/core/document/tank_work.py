"""What a layout asks of the tank: what hangs in it, what is let into it, what stands beside it."""

from tall_heron.core.document.circuit import Circuit, Element
from tall_heron.core.document.mounts import hung_pumps

BESIDE = {"pot": "a surge tank", "header": "a header tank"}  # tanks that another one fills
COUNTS = ("no", "one", "two", "three", "four")


def tank_work(circuit: Circuit) -> str:
    """What is to be done to the tanks that are filled at the pump, in a few words; alike for each of
    them where there are more.

    >>> from tall_heron.core.editing.demo import demo_builds
    >>> demo = demo_builds()
    >>> tank_work(demo["bittern"].circuit), tank_work(demo["plover"].circuit)
    ('two pumps in the tank, a return', 'an outlet from each tank, no return')
    """
    tanks = [t for t in circuit.of_kind("tank") if t.properties.family not in BESIDE]
    outlets = {t.ports["outlet"] for t in tanks}
    hung = sum(h.tank in tanks for h in hung_pumps(circuit))
    each = "each tank" if len(tanks) > 1 else "the tank"
    draws = (
        f"{COUNTS[min(hung, 4)]} pump{'s' if hung > 1 else ''} in "
        f"{'the tanks' if len(tanks) > 1 else each}"
        if hung
        else f"an outlet from {each}"
    )
    home = [e for e in circuit.elements if e.role == "return" and _ends_in(e, outlets)]
    let_go = {e.ports["end"] for e in circuit.of_kind("relief")}
    returns = (
        "no return"
        if not home
        else "a relief line"
        if all(set(e.ports.values()) & let_go for e in home)
        else "a return"
    )
    beside = [
        (word if n == 1 else f"{COUNTS[min(n, 4)]} {word.split(' ', 1)[1]}s") + " beside it"
        for family, word in BESIDE.items()
        if (n := sum(t.properties.family == family for t in circuit.of_kind("tank")))
    ]
    return ", ".join([draws, returns, *beside])


def _ends_in(element: Element, outlets: set[str]) -> bool:
    """Whether fuel from the engine ends in a tank; what a relief in the tank lets go stays there."""
    return element.kind not in ("tank", "relief") and bool(set(element.ports.values()) & outlets)
