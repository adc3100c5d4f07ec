"""newton.py's steps written out as straight-line Python for one shape of network, for shapes that
are solved again and again: the same rows, sums and elimination with every index resolved, some four
times as fast. Where it does not settle, newton.py and solve.py go on as they would without it.
"""

from collections.abc import Callable
from typing import Any

from tall_heron.core.base.lru_cache import LruCache
from tall_heron.core.hydraulics import newton
from tall_heron.core.hydraulics.elimination import LEAST
from tall_heron.core.hydraulics.laws import (
    FLATTEST,
    FLOW_FLOOR,
    FLOW_LEAST,
    LEAK,
    SLOPE_FLOOR,
    TYPICAL_FLOW,
    chain_loss,
    opening_flow,
    rise,
    slope_floor,
)
from tall_heron.core.hydraulics.network import Network
from tall_heron.core.hydraulics.topology import Frame
from tall_heron.core.physics.friction import friction_loss

AFTER = (
    20  # solves of a shape before it is written out: writing takes as long as some twenty solves
)
MOST_CHAINS = 40
Program = Callable[..., tuple[list[float], list[float], int, float]]
Shape = tuple[
    tuple[bool, bool, int, int], ...
]  # of each chain: one way, with a most, how many frictions and pumps
_programs = LruCache[tuple[Frame, Program]](64)


def program_for(net: Network) -> Program | None:
    """The program of a network's shape; None while it is new, where it is large, or where a pump's
    flow is given.
    """
    frame = net.frame
    frame.solves += 1
    if frame.solves <= AFTER or not 0 < len(frame.ends) <= MOST_CHAINS or net.given:
        return None
    shape = tuple(
        [(c.one_way, c.most < float("inf"), len(c.frictions), len(c.pumps)) for c in net.chains]
    )
    sides = tuple([r.side for r in net.regulators])
    key = id(frame), shape, sides
    # The frame is kept beside its program, so its id is no other's.
    return _programs.get(key, lambda: (frame, compiled(source(frame, shape, sides))))[1]


def compiled(text: str) -> Program:
    names: dict[str, Any] = {
        "friction_loss": friction_loss,
        "rise": rise,
        "chain_loss": chain_loss,
        "opening_flow": opening_flow,
        "slope_floor": slope_floor,
        "settled": newton.settled,
        "inf": float("inf"),
    }
    exec(compile(text, "<straight line>", "exec"), names)  # made of names and numbers of ours alone
    program: Program = names["steps"]
    return program


def source(frame: Frame, shape: Shape, sides: tuple[int, ...]) -> str:
    """The program's text."""
    first, count, unknown, total = len(shape), len(frame.ends), frame.unknown, len(frame.junctions)
    out = ["def steps(chains, regulators, greatest, pressure, flow, most_steps, residual):"]
    for i, (_, _, frictions, pumps) in enumerate(shape):
        out.append(
            f"    c{i} = chains[{i}]; lin{i}, sq{i}, fr{i}, pu{i}, crack{i}, _, most{i}, _ = c{i}; fl{i} = slope_floor(sq{i})"
        )
        out += [f"    s{i}_{j}, per{i}_{j}, ro{i}_{j} = fr{i}[{j}]" for j in range(frictions)]
        out += [f"    pump{i}_{j} = pu{i}[{j}]" for j in range(pumps)]
        if pumps:
            out.append(f"    rest{i} = crack{i} + chain_loss(c{i}, 0.0)[0]")
    out += [
        f"    law{i} = regulators[{i - first}]; tar{i}, hold{i}, wide{i} = law{i}.target, law{i}.hold, law{i}.wide_open"
        for i in range(first, count)
    ]
    out.append("    " + "".join(f"p{i}, " for i in range(total)) + "= pressure")
    out.append("    " + "".join(f"q{i}, " for i in range(count)) + "= flow")
    out.append(f"    fixed = max({', '.join(f'abs(p{i})' for i in range(unknown, total))}, 0.0)")
    out += [
        "    error, step = inf, 0",
        f"    while step < (most_steps if error > 1.0 else {newton.MOST_STEPS}):",
        "        step += 1; gap = spill = 0.0",
    ]
    for i, kind in enumerate(shape):
        out += _chain(i, kind, *frame.ends[i])
    for i in range(first, count):
        out += _regulator(i, sides[i - first], *frame.ends[i])
    out += _judgement(frame, count)
    out += _elimination(frame, first)
    out += _moves(frame, first, count)
    out.append(
        f"    return [{', '.join(f'p{i}' for i in range(total))}], [{', '.join(f'q{i}' for i in range(count))}], step, error"
    )
    return "\n".join(out)


def _chain(i: int, kind: tuple[bool, bool, int, int], u: int, v: int) -> list[str]:
    """chain_row."""
    one_way, limited, frictions, pumps = kind
    out = [f"        dp = p{u} - p{v}; held = True"]
    if one_way:
        rest = f"rest{i}" if pumps else f"crack{i}"
        out += [
            f"        if q{i} <= 0.0:",
            f"            at_rest = dp - {rest}",
            "            if at_rest <= 0.0:",
            f"                r{i} = {LEAK} * at_rest - q{i}; g{i} = {LEAK}; held = False",
            f"                if r{i} > spill: spill = r{i}",
            f"            else: q{i} = opening_flow(c{i}, at_rest)",
        ]
    if limited:
        out += [
            f"        if held and q{i} >= most{i}:",
            f"            miss = dp - chain_loss(c{i}, most{i})[0] - crack{i}",
            "            if miss >= 0.0:",
            f"                r{i} = most{i} - q{i} + {LEAK} * miss; g{i} = {LEAK}; held = False",
            f"                if -r{i} > spill: spill = -r{i}",
            f"            else: q{i} = most{i} * (1 - 1e-9)",
        ]
    indent = "            " if one_way or limited else "        "
    if one_way or limited:
        out.append("        if held:")
    size = f"q{i}" if one_way else "m"
    body = [] if one_way else [f"m = q{i} if q{i} >= 0.0 else -q{i}"]
    body.append(
        f"h = q{i} * (lin{i} + sq{i} * {size}); s = lin{i} + 2.0 * sq{i} * ({size} if {size} > {FLOW_FLOOR} else max({size}, fl{i}))"
    )
    for j in range(frictions):
        body.append(
            f"a, b = friction_loss({size}, s{i}_{j}, per{i}_{j}, ro{i}_{j}); s += b; h += "
            + ("a" if one_way else f"a if q{i} >= 0.0 else -a")
        )
    for j in range(pumps):
        body.append(
            f"a, b = rise(pump{i}_{j}, q{i}); h -= a; s += max(-b, {FLATTEST} * abs(a), 1e5)"
        )
    body += [
        f"if s < {SLOPE_FLOOR}: s = {SLOPE_FLOOR}",
        f"miss = dp - h - crack{i}; g{i} = 1.0 / s; r{i} = miss * g{i}",
        "if miss < 0.0: miss = -miss",
        "if miss > gap: gap = miss",
    ]
    return out + [indent + x for x in body]


def _regulator(i: int, side: int, u: int, v: int) -> list[str]:
    """regulator_row."""
    held_u, held_v = (f"1.0 / hold{i}", "0.0") if side == 0 else ("0.0", f"-1.0 / hold{i}")
    leak_u, leak_v = (str(LEAK), "0.0") if side == 0 else ("0.0", str(-LEAK))
    return [
        f"        dp = p{u} - p{v}; beyond = {f'p{u} - tar{i}' if side == 0 else f'tar{i} - p{v}'}; held = True",
        f"        if q{i} <= 0.0:",
        "            least = beyond if beyond < dp else dp",
        "            if least <= 0.0:",
        f"                r{i} = {LEAK} * least - q{i}; held = False",
        f"                if beyond > dp: gu{i} = {LEAK}; gv{i} = {-LEAK}",
        f"                else: gu{i} = {leak_u}; gv{i} = {leak_v}",
        f"                if r{i} > spill: spill = r{i}",
        f"            else: q{i} = min({TYPICAL_FLOW}, (dp / wide{i}) ** 0.5)",
        "        if held:",
        f"            a = beyond - hold{i} * q{i}; miss = dp - wide{i} * q{i} * q{i}",
        f"            if a <= miss: miss = a; gu{i} = {held_u}; gv{i} = {held_v}; r{i} = a / hold{i}",
        f"            else: gu{i} = 0.5 / (wide{i} * max(q{i}, {FLOW_FLOOR})); gv{i} = -gu{i}; r{i} = miss * gu{i}",
        "            if miss < 0.0: miss = -miss",
        "            if miss > gap: gap = miss",
    ]


def _judgement(frame: Frame, count: int) -> list[str]:
    """Sums at the junctions and the error."""
    out = []
    for node in range(frame.unknown):
        terms = [f"- q{i}" for i, (u, _) in enumerate(frame.ends) if u == node] + [
            f"+ q{i}" for i, (_, v) in enumerate(frame.ends) if v == node
        ]
        out.append(f"        b{node} = {' '.join(terms) or '0.0'}")
    pressures, flows, sums = (
        "".join(f"abs({x}{i}), " for i in range(n))
        for x, n in (("p", frame.unknown), ("q", count), ("b", frame.unknown))
    )
    out += [
        f"        scale = max(min(max({pressures}fixed, 0.0), greatest), {newton.PRESSURE_FLOOR})",
        f"        largest = max({flows}{FLOW_LEAST})",
        f"        off = max({sums}spill, 0.0)",
        f"        error = max({newton.TIGHTER} * gap / scale, off / largest) / residual",
    ]
    return out


def _elimination(frame: Frame, first: int) -> list[str]:
    """Plan.steps_of."""
    slots: dict[int, list[str]] = {}
    right = {node: [f"b{node}"] for node in range(frame.unknown)}
    for i, ((uu, uv, vu, vv), (u, v)) in enumerate(zip(frame.plan.where, frame.ends, strict=True)):
        gu, gv, minus = (f"g{i}", f"g{i}", "-") if i < first else (f"gu{i}", f"gv{i}", "+")
        for slot, sign, g in (
            (uu, "+", gu),
            (uv, minus, gv),
            (vu, "-", gu),
            (vv, "+" if i < first else "-", gv),
        ):
            slots.setdefault(slot, []).append(f"{sign} {g}")
        if u in right:
            right[u].append(f"- r{i}")
        if v in right:
            right[v].append(f"+ r{i}")
    out = [
        f"        a{slot} = {' '.join(slots.get(slot, ['0.0']))}"
        for slot in range(frame.plan.slots - 1)
    ]
    out += [f"        b{node} = {' '.join(terms)}" for node, terms in right.items()]
    for pivot, node, rows in frame.plan.steps:
        if rows:
            out.append(f"        top = a{pivot} or {LEAST}")
        for row_slot, row, updates in rows:
            out.append(
                f"        f = a{row_slot} / top; b{row} -= f * b{node}"
                + "".join(f"; a{to} -= f * a{take}" for to, take in updates)
            )
    for pivot, node, rest in frame.plan.back:
        value = f"b{node}" + "".join(f" - a{take} * d{column}" for take, column in rest)
        out.append(f"        d{node} = ({value}) / (a{pivot} or {LEAST})")
    return out


def _moves(frame: Frame, first: int, count: int) -> list[str]:
    """What each flow would move, whether that settles it, and the step."""
    out = []
    for i, (u, v) in enumerate(frame.ends):
        gu, gv = (f"g{i}", f"- g{i}") if i < first else (f"gu{i}", f"+ gv{i}")
        terms = (f" + {gu} * d{u}" if u < frame.unknown else "") + (
            f" {gv} * d{v}" if v < frame.unknown else ""
        )
        out.append(f"        m{i} = r{i}{terms}")
    every = range(count)

    def row(name: str) -> str:
        return "[" + ", ".join(f"{name}{i}" for i in every) + "]"

    gus = "[" + ", ".join(f"g{i}" if i < first else f"max(gu{i}, -gv{i})" for i in every) + "]"
    out.append(
        f"        if error <= 1.0 and (largest <= {FLOW_LEAST} or settled({row('q')}, {row('m')}, {gus}, largest, scale, residual)): break"
    )
    for i in every:
        out.append(
            f"        a = {newton.GROWTH} * max(q{i}, -q{i}, {TYPICAL_FLOW}); q{i} += m{i} if -a < m{i} < a else a if m{i} > 0.0 else -a"
        )
    out += [f"        p{i} += d{i}" for i in range(frame.unknown)]
    out += ["    else:", "        if error <= 1.0: error = 2.0"]
    return out
