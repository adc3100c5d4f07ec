"""What must hold of a cut-off once nothing has been touched for a while, looked for in every state
that its machine can come to.
"""

from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, replace

from tall_heron.core.document.wiring import CutOff
from tall_heron.core.electrics.cut_off import TICK, CutOffState, Inputs, settled, step

MOST_STATES = 3000
Claim = tuple[str, Callable[[Inputs, CutOffState], bool]]


@dataclass(frozen=True)
class Holds:
    """A property of a machine: whether it holds, and where it does not the fewest acts that show
    it. `stopped` where the search ended before it had seen every state.
    """

    says: str
    holds: bool
    acts: tuple[str, ...] = ()
    stopped: bool = False


def _claims(cut: CutOff) -> list[Claim]:
    """What must hold once nothing has been touched for a while: inputs and state to whether it
    does.
    """
    claims: list[Claim] = [
        (
            "No pump runs without a reason once the engine has stopped",
            lambda x, s: not s.pumps or x.turning or x.cranking or not s.turned,
        ),
        ("Prime ends by itself", lambda x, s: not s.pumps or x.turning or x.cranking or s.turned),
        (
            "The starter feeds the engine before there is oil pressure",
            lambda x, s: s.pumps or not x.cranking or bool(s.latched) or x.killed or x.empty,
        ),
    ]
    if cut.inertia or cut.roll_over:
        claims.append(
            (
                "A crash stops the pumps",
                lambda x, s: (
                    not s.pumps or not ((x.crash and cut.inertia) or (x.rolled and cut.roll_over))
                ),
            )
        )
    if cut.kill != "none":
        claims.append(("The kill switch stops the pumps", lambda x, s: not s.pumps or not x.killed))
    return claims


def properties(cut: CutOff) -> list[Holds]:
    """Each claim walked over every state that throwing switches, and waiting, can reach, the
    nearest first; where one fails, the fewest acts that show it. None for a machine that is not
    automatic.
    """
    if not cut.automatic:
        return []
    # Looked at when all has settled: how long a time is does not matter then, only whether there is
    # one, so each is made a few ticks long.
    cut = cut.model_copy(
        update={
            name: min(getattr(cut, name), 3 * TICK)
            for name in ("prime_s", "oil_falls_s", "control_unit_s")
        }
    )
    wait = settled(cut) + 1
    names = ["ignition", "cranking", "turning"]
    names += [
        n
        for n, there in (
            ("oil_lost", cut.oil_switch),
            ("crash", cut.inertia),
            ("rolled", cut.roll_over),
            ("killed", cut.kill != "none"),
            ("empty", cut.level),
        )
        if there
    ]
    open_claims = dict(_claims(cut))
    broken: dict[str, tuple[str, ...]] = {}
    first = Inputs(), CutOffState()
    met = {_short(*first, wait)}
    row: deque[tuple[Inputs, CutOffState, tuple[str, ...]]] = deque([(*first, ())])
    while row and open_claims and len(met) < MOST_STATES:
        x, state, acts = row.popleft()
        for name in names:
            y = _thrown(x, name)
            if y is None:
                continue
            there = state
            for _ in range(wait):
                there = step(cut, there, y)
            done = (*acts, f"{name.replace('_', ' ')} {'on' if getattr(y, name) else 'off'}")
            for says in [c for c, holds in open_claims.items() if not holds(y, there)]:
                broken[says] = done
                del open_claims[says]
            if (key := _short(y, there, wait)) not in met:
                met.add(key)
                row.append((y, there, done))
    return [
        Holds(says, says not in broken, broken.get(says, ()), bool(row) and says not in broken)
        for says, _ in _claims(cut)
    ]


def _thrown(x: Inputs, name: str) -> Inputs | None:
    """The inputs with one of them turned over, and what goes with it; None for what cannot be."""
    y = replace(x, **{name: not getattr(x, name)})
    if (y.turning or y.cranking) and not y.ignition:
        return replace(y, turning=False, cranking=False) if name == "ignition" else None
    if y.turning and y.cranking:
        return replace(y, cranking=False) if name == "turning" else replace(y, turning=False)
    return replace(y, oil_lost=False) if y.oil_lost and not y.turning else y


def _short(x: Inputs, s: CutOffState, wait: int) -> tuple[Inputs, CutOffState]:
    """Inputs and state with counters that no longer tell cut short, so that states that behave
    alike are one.
    """
    return x, replace(s, on=min(s.on, wait), still=min(s.still, wait), why="")
