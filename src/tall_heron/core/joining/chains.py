"""What joins two faces: nothing between, one adapter or a few, or the reason why not."""

import heapq
from dataclasses import dataclass
from functools import cache
from typing import Literal

from tall_heron.core.base.catalogue import Row, table
from tall_heron.core.document.faces import LOOSE, Face, face, false_pair, joins
from tall_heron.core.shelf.supplier import stand_in

MOST_PIECES = 3
MOST_WAYS = 6
NOT_BETWEEN = ("inlet", "hanger")  # adapters that stand in a tank
State = Literal["direct", "adapter", "refused", "none"]


@dataclass(frozen=True)
class Adapter:
    """An adapter in a joint, the way round it stands: the face it turns to the first part, and to
    the second.
    """

    name: str
    title: str
    first: Face
    second: Face
    angle_deg: float
    stands_mm: float
    bore_mm: float
    loss_coefficient: float
    price: float
    mass_kg: float


@dataclass(frozen=True)
class Join:
    """How a pair of faces is joined: directly, by one of the `ways` (the best first), refused, or
    not to be had. `why` and `do` say what stands against it, or what must not be done.
    """

    state: State
    ways: tuple[tuple[Adapter, ...], ...] = ()
    why: str = ""
    do: str = ""
    source: str = ""


@cache
def pieces() -> tuple[Adapter, ...]:
    """Every adapter that may stand between two parts, each both ways round."""
    rows = [
        r
        for r in table("adapters")
        if r["mount"] not in NOT_BETWEEN and not str(r["name"]).startswith("bulkhead")
    ]
    out = []
    for r in rows:
        a, b = face(str(r["face_a"])), face(str(r["face_b"]))
        if a.sort in LOOSE or b.sort in LOOSE:
            continue
        out += [_piece(r, a, b)] + ([_piece(r, b, a)] if a != b else [])
    return tuple(out)


def _piece(r: Row, a: Face, b: Face) -> Adapter:
    return Adapter(
        str(r["name"]),
        str(r["title"]),
        a,
        b,
        r["angle_deg"],
        r["stands_mm"],
        r["bore_mm"],
        r["loss_coefficient"],
        r["price"],
        r["mass_kg"],
    )


@cache
def _from(first: Face) -> tuple[Adapter, ...]:
    """The adapters that go onto a face."""
    return tuple(p for p in pieces() if joins(first, p.first))


def fits(a: Face, chain: tuple[Adapter, ...], b: Face) -> bool:
    """Whether a chain of adapters joins two faces, joint by joint."""
    sides = [a, *(f for p in chain for f in (p.first, p.second)), b]
    return all(joins(sides[i], sides[i + 1]) for i in range(0, len(sides), 2))


def named(a: Face, names: tuple[str, ...], b: Face) -> tuple[Adapter, ...] | None:
    """The chain of adapters of some names, turned so that it joins two faces; None where it does
    not.
    """
    chains: list[tuple[Face, tuple[Adapter, ...]]] = [(a, ())]
    for name in names:
        chains = [
            (p.second, (*done, p)) for here, done in chains for p in _from(here) if p.name == name
        ]
    return next((done for here, done in chains if joins(here, b)), None)


@cache
def join(a: Face, b: Face) -> Join:
    """How two faces are joined: what is in stock, then fewest pieces, then the widest bore, then
    the least price; bent adapters are among the ways but never the first.
    """
    if a.sort in LOOSE or b.sort in LOOSE:
        wrong = next(f for f in (a, b) if f.sort in LOOSE)
        return Join(
            "refused",
            (),
            f"One side {wrong.words}: there is nothing to screw onto.",
            "Fit a bung or an inlet with a thread outside.",
            "common practice",
        )
    if joins(a, b):
        return Join("direct")
    ways = _ways(a, b)
    wrong_row = false_pair(a, b)
    why, do, source = (
        (str(wrong_row[x]) for x in ("why", "do", "source"))
        if wrong_row is not None
        else ("", "", "")
    )
    if ways:
        return Join("adapter", ways, why, do, source)
    if wrong_row is not None:
        return Join("refused", (), why, do, source)
    return Join(
        "none",
        (),
        f"The shelf has nothing between a {a.words} and a {b.words}.",
        "Choose another end, another size or another part, or have an adapter made.",
        "the shelf",
    )


def _ways(a: Face, b: Face) -> tuple[tuple[Adapter, ...], ...]:
    """Chains from a face to a face, the best first. A chain visits no face twice."""
    ready: list[tuple[tuple[float, ...], int, Face, tuple[Adapter, ...]]] = [
        ((0, 0, 0, 0), 0, a, ())
    ]
    chains_met: list[tuple[Adapter, ...]] = []
    count, met = 0, dict[tuple[Face, int], int]()
    least = MOST_PIECES
    while ready and len(chains_met) < MOST_WAYS:
        _, _, here, chain = heapq.heappop(ready)
        if chain and joins(here, b):
            chains_met.append(chain)
            least = min(least, len(chain)) if _there(chain) else least
            continue
        if len(chain) >= least:
            continue
        for p in _from(here):
            bent = p.angle_deg > 0
            if any(q.second == p.second for q in chain) or (bent and chain):
                continue
            key = (p.second, len(chain) + 1)
            met[key] = met.get(key, 0) + 1
            if met[key] > MOST_WAYS:
                continue
            count += 1
            more = (*chain, p)
            cost = (
                float(len(more)),
                float(sum(q.angle_deg > 0 for q in more)),
                -min(q.bore_mm for q in more),
                sum(q.price for q in more),
            )
            heapq.heappush(ready, (cost, count, p.second, more))
    return tuple(sorted(chains_met, key=lambda way: not _there(way)))


def _there(chain: tuple[Adapter, ...]) -> bool:
    """Whether the supplier has every piece of a chain."""
    return all((stand_in(p.name, "adapters").stock or 0) > 0 for p in chain)
