"""Threads, ports and adapters against published standards, and every pair of faces against an
adapter search written anew.
"""

import itertools

import pytest

from tall_heron.core.base.catalogue import table
from tall_heron.core.document.faces import LOOSE, Face, every_face, face, false_pair, joins
from tall_heron.core.document.kinds import KINDS, LINES
from tall_heron.core.joining.chains import MOST_PIECES, fits, join
from tall_heron.core.joining.joints import TO_ITS_LINE
from tall_heron.core.shelf.shelf import parts

IN = 25.4
ROWS = {
    (r["sort"], f"{r['size']:g}" if isinstance(r["size"], float) else r["size"]): r
    for r in table("threads")
}

# SAE J514 / J1926-1 (UN threads by dash size, inches and threads an inch), from memory.
UN = [
    ("-4", 7 / 16, 20),
    ("-6", 9 / 16, 18),
    ("-8", 3 / 4, 16),
    ("-10", 7 / 8, 14),
    ("-12", 1 + 1 / 16, 12),
    ("-16", 1 + 5 / 16, 12),
]


@pytest.mark.parametrize(("dash", "inches", "tpi"), UN)
def test_threads_of_flares_and_ports(dash: str, inches: float, tpi: int) -> None:
    for sort in ("flare", "port"):
        row = ROWS[sort, dash]
        assert row["major_mm"] == pytest.approx(inches * IN, abs=0.002)
        assert row["pitch_mm"] == pytest.approx(IN / tpi, abs=0.001)


@pytest.mark.parametrize(("dash", "inches", "tpi"), UN)
def test_the_drill_of_a_port_leaves_a_thread_of_60_to_85_percent(
    dash: str, inches: float, tpi: int
) -> None:
    """ASME B1.1: the basic minor diameter is D - 1.08253 P, full height of an internal thread
    0.54127 P a side; a tap drill leaves 60 to 85 % of it, common practice.
    """
    major, pitch, drill = inches * IN, IN / tpi, ROWS["port", dash]["drill_mm"]
    assert 0.60 <= (major - drill) / (2 * 0.54127 * pitch) <= 1.0
    assert ROWS["port", dash]["depth_mm"] >= 0.55 * major


# ASME B1.20.1 outside diameters and threads an inch, and the usual drills without reaming (0.339,
# 7/16, 37/64, 23/32, 59/64, 1 5/32 in), from memory.
NPT = [
    ("1/8", 0.405, 27, 0.339),
    ("1/4", 0.540, 18, 7 / 16),
    ("3/8", 0.675, 18, 37 / 64),
    ("1/2", 0.840, 14, 23 / 32),
    ("3/4", 1.050, 14, 59 / 64),
    ("1", 1.315, 11.5, 1 + 5 / 32),
]


@pytest.mark.parametrize(("size", "inches", "tpi", "drill"), NPT)
def test_taper_threads_have_their_effective_length(
    size: str, inches: float, tpi: float, drill: float
) -> None:
    """ASME B1.20.1: L2 = (0.80 D + 6.8) p."""
    row, p = ROWS["pipe", size], 1 / tpi
    assert row["effective_mm"] == pytest.approx((0.80 * inches + 6.8) * p * IN, abs=0.01)
    assert row["hand_tight_mm"] < row["effective_mm"]
    assert row["drill_mm"] == pytest.approx(drill * IN, abs=0.15)


@pytest.mark.parametrize(
    ("size", "inches", "tpi"),
    [("1/4", 7 / 16, 20), ("5/16", 1 / 2, 20), ("3/8", 5 / 8, 18), ("1/2", 3 / 4, 16)],
)
def test_45_degree_threads(size: str, inches: float, tpi: int) -> None:
    """SAE J512, from memory: of these 1/4 and 1/2 in carry the very threads of -4 and -8, which is
    how they come to be mixed up.
    """
    assert (ROWS["flare45", size]["major_mm"], ROWS["flare45", size]["pitch_mm"]) == pytest.approx(
        (inches * IN, IN / tpi), abs=0.002
    )
    same = {"1/4": "-4", "1/2": "-8"}.get(size)
    wrong = false_pair(Face("flare", same), Face("nut45", size)) if same else None
    assert (wrong is not None) == (same is not None)


@pytest.mark.parametrize(("size", "mm"), [("5/16", 7.89), ("3/8", 9.49), ("1/2", 11.80)])
def test_quick_connectors(size: str, mm: float) -> None:
    """SAE J2044 spigots, from memory."""
    assert ROWS["spigot", size]["major_mm"] == mm


def reached(start: Face, but: frozenset[str] = frozenset()) -> dict[Face, int]:
    """How many adapters lead from a face to others at least, but some: breadth first over the
    data's own rows.
    """
    rows = [
        r
        for r in table("adapters")
        if r["mount"] not in ("inlet", "hanger")
        and not r["name"].startswith("bulkhead")
        and r["name"] not in but
    ]
    pairs = [
        (face(r["face_a"]), face(r["face_b"]))
        for r in rows
        if not {"open", "weld"} & {r["face_a"], r["face_b"]}
    ]
    pairs += [(b, a) for a, b in pairs]
    mates = {(r["sort"], r["mate"]) for r in table("mates")} | {
        (r["mate"], r["sort"]) for r in table("mates")
    }
    far, now = {start: 0}, {start}
    for step in range(1, MOST_PIECES + 1):
        now = {
            b
            for f in now
            for a, b in pairs
            if (f.sort, a.sort) in mates and f.size == a.size and b not in far
        }
        far |= dict.fromkeys(now, step)
    return far


def test_every_pair_of_threads_is_joined_refused_or_said_not_to_be_had() -> None:
    """Against a search written anew: joined with as few pieces as can be had from stock, and
    refused or not to be had only where no chain of adapters leads there.
    """
    count = 0
    out = frozenset(str(r["item"]) for r in table("stock") if not r["stock"])
    for a in every_face()[::4]:
        far, had = reached(a), reached(a, out)
        for b in every_face():
            how = join(a, b)
            ways = [n for f, n in far.items() if joins(f, b)]
            count += 1
            if joins(a, b):
                assert how.state == "direct"
            elif ways:
                assert how.state == "adapter", (a, b)
                assert len(how.ways[0]) == min([n for f, n in had.items() if joins(f, b)] or ways)
                assert all(fits(a, way, b) for way in how.ways)
                assert all(p.angle_deg == 0 for p in how.ways[0]) or all(
                    any(p.angle_deg for p in w) for w in how.ways
                )
            else:
                assert how.state == ("refused" if false_pair(a, b) else "none"), (a, b)
                assert how.why
                assert how.do
    assert count == len(every_face()[::4]) * len(every_face()) > 1500


FALSE = [
    ("nut -8", "flare45 1/2", "45°"),
    ("nut45 1/4", "flare -4", "37°"),
    ("port -8", "flare -8", "O-ring"),
    ("port -6", "taper 1/4", "taper"),
    ("pipe 1/4", "boss -6", "O-ring"),
    ("tube -6", "hose -6", "bead"),
    ("hose -8", "port -8", "hold|screw|nothing"),
]


@pytest.mark.parametrize(("a", "b", "word"), FALSE)
def test_false_pairs_are_named(a: str, b: str, word: str) -> None:
    how = join(face(a), face(b))
    assert how.state in ("refused", "adapter")
    assert any(w in how.why for w in word.split("|"))
    assert join(face(b), face(a)).why == how.why


def test_what_only_looks_alike_is_not_false_where_sizes_differ() -> None:
    for a, b in (
        ("nut -6", "flare45 1/2"),
        ("port -8", "flare -6"),
        ("port -12", "taper 1/4"),
        ("nut -8", "flare -8"),
    ):
        assert false_pair(face(a), face(b)) is None


def test_every_port_of_every_part_of_the_shelf_has_a_face() -> None:
    known = {(r["part"], r["port"]) for r in table("ports")}
    for r in table("ports"):
        assert r["face"] == TO_ITS_LINE or face(r["face"])  # raises for one that no data knows
        assert r["part"] in parts(), r
    adapters = {r["name"] for r in table("adapters")}
    for name, part in parts().items():
        if part.kind in LINES or part.kind == "injectors" or name in adapters:
            continue
        ports = ("start",) if part.kind == "vent_valve" else KINDS[part.kind].ports
        assert all((name, port) in known for port in ports), name


def test_sizes_cross_and_everything_can_be_closed() -> None:
    """Cross-size adapters between neighbouring sizes, a cap for every flare, a plug for every port
    and pipe that a part has.
    """
    sizes = [d for d, _, _ in UN]
    for a, b in itertools.permutations(sizes, 2):
        near = abs(sizes.index(a) - sizes.index(b)) <= 2
        how = join(Face("nut", a), Face("port", b))
        assert (len(how.ways[0]) == 1) if near else how.state in ("adapter", "none")
        assert join(Face("nut", a), Face("flare", b)).state == "adapter" or not near
    closes = {r["fits"] for r in table("closures")}
    wanted = {
        r["face"]
        for r in table("ports")
        if (r["face"] != TO_ITS_LINE and face(r["face"]).sort in ("flare", "port"))
        or r["face"] in ("pipe 1/8", "pipe 1/4", "pipe 3/8")
    }
    assert wanted <= closes
    assert all(face(str(f)).sort not in LOOSE for f in closes)
