"""Where bulk hose and tube are cut: what to buy of it, and the order of pieces on each length, so
that least is paid and then least is left over.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field

from tall_heron.core.base.catalogue import house_figure, table

MOST_PIECES = 40  # that the solver looks at together; beyond it they are laid out longest first
CENT = 1e-5  # of price for a millimeter bought, so that of equal prices the shorter wins


@dataclass(frozen=True)
class Stock:
    """A length that hose is sold in [mm] and its price; `by_foot` is sold in any whole number of
    it, in one piece; one already there is an `offcut` and costs nothing.
    """

    length: float
    price: float
    by_foot: bool = False
    offcut: bool = False


@dataclass(frozen=True)
class StockLength:
    """A length of hose with what is cut from it, in order: the piece, and from where to where [mm];
    what is left [mm].
    """

    stock: Stock
    bought: float
    price: float
    pieces: tuple[tuple[str, float, float], ...]

    @property
    def left(self) -> float:
        """What is left of it [mm]."""
        return self.bought - (self.pieces[-1][2] if self.pieces else 0.0)


@dataclass(frozen=True)
class CutPlan:
    """What is bought of one hose and cut from it; `without` are pieces that no length is long
    enough for; `stopped` says where the search ended before it was sure.
    """

    lengths: tuple[StockLength, ...]
    without: tuple[str, ...] = ()
    stopped: str = ""

    @property
    def price(self) -> float:
        """What is paid."""
        return sum(x.price for x in self.lengths)

    @property
    def bought(self) -> float:
        """How much is bought [mm], offcuts apart."""
        return sum(x.bought for x in self.lengths if not x.stock.offcut)

    @property
    def waste(self) -> float:
        """What is left over of what is bought [mm]."""
        return sum(x.left for x in self.lengths if not x.stock.offcut)


def stocks_of(
    family: str, price_m: float | None, sold: str, offcuts: Sequence[float] = ()
) -> list[Stock]:
    """The lengths that a family is sold in, at a price by the meter: `sold` is "coils", "by the
    foot" or "both". Tube always comes straight or in coils.
    """
    rows = [r for r in table("stock_lengths") if r["family"] == family] or [
        {"sort": "foot", "length_mm": 304.8, "price_times": 1.0}
    ]
    if sold == "coils" and any(r["sort"] != "foot" for r in rows):
        rows = [r for r in rows if r["sort"] != "foot"]
    if sold == "by the foot" and any(r["sort"] == "foot" for r in rows):
        rows = [r for r in rows if r["sort"] == "foot"]
    own = [Stock(x, 0.0, False, True) for x in offcuts]
    return own + [
        Stock(
            r["length_mm"],
            r["length_mm"] / 1000 * (price_m or 0.0) * r["price_times"],
            r["sort"] == "foot",
        )
        for r in rows
    ]


def plan_cuts(
    pieces: Sequence[tuple[str, float]],
    stocks: Sequence[Stock],
    kerf: float | None = None,
    seconds: float | None = None,
) -> CutPlan:
    """Cut pieces (name, length [mm]) from stock at the least price, then the least length bought. A
    mixed-integer programme, solved by HiGHS through SciPy within `seconds`.
    """
    kerf = house_figure("cut_loss_mm") if kerf is None else kerf
    foot = min((s for s in stocks if s.by_foot), key=lambda s: s.price / s.length, default=None)
    coils = [s for s in stocks if not s.by_foot]
    fit, lost = _placed(sorted(pieces, key=lambda p: -p[1]), coils, foot is not None)
    without = tuple(name for name, _ in pieces if name in lost)
    if not fit:
        return CutPlan((), without)
    bins = _bins(fit, coils, kerf)
    greedy = _greedy(fit, coils, foot, kerf)
    if len(fit) > MOST_PIECES:
        return CutPlan(
            tuple(greedy),
            without,
            f"{len(fit)} pieces are many: they are laid out longest first, and a cheaper way may exist",
        )
    solved, sure = _solve(
        fit, bins, foot, kerf, house_figure("solver_seconds") if seconds is None else seconds
    )
    if solved is None or _cost(solved) > _cost(greedy) + 1e-6:
        solved = greedy
    return CutPlan(
        tuple(solved),
        without,
        "" if sure else "the search was stopped at its time limit: a cheaper way may exist",
    )


def _placed(
    pieces: list[tuple[str, float]], coils: Sequence[Stock], by_foot: bool
) -> tuple[list[tuple[str, float]], set[str]]:
    """The pieces that something is long enough for, and the names of those that nothing is. A piece
    longer than any coil needs an off-cut of its own, of which there is one each.
    """
    bought = math.inf if by_foot else max((s.length for s in coils if not s.offcut), default=0.0)
    offcuts = sorted(s.length for s in coils if s.offcut)
    fit, lost = [], set()
    for name, mm in pieces:
        if mm > bought:
            at = next((i for i, x in enumerate(offcuts) if x >= mm), None)
            if at is None:
                lost.add(name)
                continue
            del offcuts[at]
        fit.append((name, mm))
    return fit, lost


def _cost(lengths: Sequence[StockLength]) -> float:
    return sum(x.price + (0.0 if x.stock.offcut else CENT * x.bought) for x in lengths)


def _bins(fit: list[tuple[str, float]], coils: Sequence[Stock], kerf: float) -> list[Stock]:
    """As many of each length as could all be needed."""
    out = []
    for stock in coils:
        if stock.offcut:
            out.append(stock)
            continue
        left: list[float] = []
        for _, mm in fit:
            if mm > stock.length:
                continue
            at = next((i for i, x in enumerate(left) if x >= mm), None)
            if at is None:
                left.append(stock.length)
                at = len(left) - 1
            left[at] -= mm + kerf
        out += [stock] * len(left)
    return out


def _laid(
    stock: Stock, pieces: Sequence[tuple[str, float]], kerf: float, feet: int = 0
) -> StockLength:
    at, out = 0.0, []
    for name, mm in pieces:
        out.append((name, at, at + mm))
        at += mm + kerf
    return StockLength(
        stock,
        stock.length * feet if stock.by_foot else stock.length,
        stock.price * feet if stock.by_foot else stock.price,
        tuple(out),
    )


def _feet(pieces: Sequence[tuple[str, float]], foot: Stock, kerf: float) -> int:
    return math.ceil((sum(mm + kerf for _, mm in pieces) - kerf) / foot.length - 1e-9)


def _greedy(
    fit: list[tuple[str, float]], coils: Sequence[Stock], foot: Stock | None, kerf: float
) -> list[StockLength]:
    """By the foot where it is sold so; else longest first into the shortest length that holds it."""
    if foot is not None:
        return [_laid(foot, fit, kerf, _feet(fit, foot, kerf))]
    open_: list[tuple[Stock, list[tuple[str, float]], float]] = []
    offcuts = [s for s in coils if s.offcut]
    for name, mm in fit:
        at = next((i for i, (_, _, left) in enumerate(open_) if left >= mm), None)
        if at is None:
            holds = [s for s in coils if s.length >= mm and (not s.offcut or s in offcuts)]
            stock = min(holds, key=lambda s: (s.offcut, s.length))
            if stock.offcut:
                offcuts.remove(stock)
            open_.append((stock, [], stock.length))
            at = len(open_) - 1
        stock, laid_pieces, left = open_[at]
        open_[at] = (stock, [*laid_pieces, (name, mm)], left - mm - kerf)
    return [_laid(stock, laid_pieces, kerf) for stock, laid_pieces, _ in open_]


@dataclass
class _Rows:
    """Rows of the programme as they are written down."""

    columns: int
    matrix: list[dict[int, float]] = field(default_factory=list)
    low: list[float] = field(default_factory=list)
    high: list[float] = field(default_factory=list)

    def add(self, row: dict[int, float], low: float, high: float) -> None:
        self.matrix.append(row)
        self.low.append(low)
        self.high.append(high)


def _solve(
    fit: list[tuple[str, float]], bins: list[Stock], foot: Stock | None, kerf: float, seconds: float
) -> tuple[list[StockLength] | None, bool]:
    import numpy as np
    from scipy.optimize import (
        Bounds,
        LinearConstraint,
        milp,
    )  # only who asks for a cut plan pays for it
    from scipy.sparse import lil_matrix

    n, b = len(fit), len(bins)
    whole = b + (1 if foot is not None else 0)
    x = lambda i, k: i * whole + k  # noqa: E731 - piece i in length k; the last is what is sold by the foot
    y = lambda k: n * whole + k  # noqa: E731 - whether length k is used; of the last how many feet
    rows = _Rows(n * whole + whole)
    for i in range(n):
        rows.add({x(i, k): 1.0 for k in range(whole)}, 1, 1)
    for k, stock in enumerate(bins):
        rows.add(
            {**{x(i, k): fit[i][1] + kerf for i in range(n)}, y(k): -(stock.length + kerf)},
            -np.inf,
            0,
        )
        if k and bins[k - 1] is stock:
            rows.add({y(k - 1): 1.0, y(k): -1.0}, 0, np.inf)
    cost = np.zeros(rows.columns)
    high = np.ones(rows.columns)
    for k, stock in enumerate(bins):
        cost[y(k)] = stock.price + (0.0 if stock.offcut else CENT * stock.length)
    if foot is not None:
        rows.add(
            {**{x(i, b): fit[i][1] + kerf for i in range(n)}, y(b): -foot.length}, -np.inf, kerf
        )
        cost[y(b)] = foot.price + CENT * foot.length
        high[y(b)] = math.ceil(sum(mm + kerf for _, mm in fit) / foot.length)
    matrix = lil_matrix((len(rows.matrix), rows.columns))
    for r, row in enumerate(rows.matrix):
        for c, v in row.items():
            matrix[r, c] = v
    optimum = milp(
        cost,
        integrality=np.ones(rows.columns),
        bounds=Bounds(0, high),
        constraints=LinearConstraint(matrix.tocsr(), rows.low, rows.high),
        options={"time_limit": seconds},
    )
    if optimum.x is None:
        return None, False
    laid_pieces: dict[int, list[tuple[str, float]]] = {}
    for i in range(n):
        laid_pieces.setdefault(max(range(whole), key=lambda k: optimum.x[x(i, k)]), []).append(
            fit[i]
        )
    return [
        _laid(foot, p, kerf, _feet(p, foot, kerf))
        if foot is not None and k == b
        else _laid(bins[k], p, kerf)
        for k, p in sorted(laid_pieces.items())
    ], optimum.status == 0
