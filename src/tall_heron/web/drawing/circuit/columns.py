"""Parts side by side in a column, and the lines from one column to the next: shared by the strip
and the sketch.
"""

Segment = tuple[float, float, float, float]  # x0, y0, x1, y1


def offsets(count: int, gap: float) -> list[float]:
    """Heights of parts in parallel, `gap` apart, around their line [px]."""
    return [(j - (count - 1) / 2) * gap for j in range(count)]


def reach(count: int, scale: float = 1.0) -> float:
    """How far a part of a column of so many stands out from its centre [px]."""
    return (20.0 if count == 1 else 16.0) * scale


def joined(
    here: int,
    there: int,
    x0: float,
    x1: float,
    middle: float,
    y: float,
    gap: float,
    scale: float = 1.0,
) -> list[Segment]:
    """The lines from a column of `here` parts at x0 to one of `there` at x1: part to part where
    both have as many, otherwise through the middle; parts are drawn at a `scale`.
    """
    if here == there:
        far = reach(here, scale)
        return [(x0 + far, y + dy, x1 - far, y + dy) for dy in offsets(here, gap)]
    out: list[Segment] = []
    for count, x, side in ((here, x0, 1), (there, x1, -1)):
        ys = offsets(count, gap)
        a, b = sorted((x + side * reach(count, scale), middle))
        out += [(a, y + dy, b, y + dy) for dy in ys]
        if count > 1:
            out.append((middle, y + ys[0], middle, y + ys[-1]))
    return out
