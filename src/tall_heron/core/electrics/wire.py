"""A wire: area, resistance, what it carries for its heat."""

import itertools
import math
from functools import cache

from tall_heron.core.base.catalogue import by_name, house_figure, table

RHO_20 = 1.724e-8  # ohm m, annealed copper (IEC 60028)
ALPHA = 0.00393  # 1/K at 20 degC (IEC 60028)


def awg_diameter_mm(number: int) -> float:
    """The diameter of a wire of an American gauge [mm]. Source: ASTM B258, 0.127 mm x 92^((36 -
    n)/39).

    >>> round(awg_diameter_mm(10), 3)
    2.588
    """
    return 0.127 * 92 ** ((36 - number) / 39)


@cache
def area_mm2(size: str) -> float:
    """The copper of a size [mm2]. Raises KeyError for one that no data knows."""
    row = by_name("wires", "size")[size]
    return (
        float(row["area_mm2"])
        if row["area_mm2"]
        else math.pi / 4 * awg_diameter_mm(int(size.removeprefix("AWG "))) ** 2
    )


def resistance(size: str, length_mm: float, celsius: float) -> float:
    """What a wire of a length has at a temperature [ohm]: rho L / A.

    >>> round(15 * resistance("4 mm²", 10000, 20), 3)
    0.647
    """
    return RHO_20 * (1 + ALPHA * (celsius - 20)) * (length_mm / 1000) / (area_mm2(size) * 1e-6)


def bundle_share(together: int) -> float:
    """What of its current a wire still carries where so many lie together [-]: more wires than a
    row take the next row, and beyond the last each carries less by the root of their number,
    as their heat then must leave through a surface that grows with it.
    """
    rows = sorted((r["wires"], float(r["share"])) for r in table("bundles"))
    share = next((share for wires, share in rows if wires >= together), None)
    return share if share is not None else rows[-1][1] * math.sqrt(rows[-1][0] / together)


@cache
def free_air(mm2: float) -> float:
    """What a wire of so much copper carries alone in free air [A], 70 degC insulation at 30 degC:
    DIN VDE 0298-4, from memory, between its rows by powers of the area.
    """
    rows = sorted(
        (float(r["area_mm2"]), float(r["free_air_a"])) for r in table("wires") if r["free_air_a"]
    )
    (a, i), (b, j) = next(
        ((x, y) for x, y in itertools.pairwise(rows) if mm2 <= y[0]), (rows[-2], rows[-1])
    )
    return i * (mm2 / a) ** (math.log(j / i) / math.log(b / a))


def carries(size: str, ambient_c: float, together: int, insulation_c: float) -> float:
    """What a wire carries without its insulation growing too hot [A]; 0.0 where the air alone is.

    Heat goes as the square of the current and away with the difference to the air, so a table made
    for one difference is moved to another by its root (IEC 60287 in its simplest form), and made
    less by what lies beside it. One law for both systems: by the copper, so that no thicker wire
    carries less.
    """
    if insulation_c <= ambient_c:
        return 0.0
    base = house_figure("free_air_insulation_c") - house_figure("free_air_ambient_c")
    return (
        free_air(area_mm2(size))
        * bundle_share(together)
        * math.sqrt((insulation_c - ambient_c) / base)
    )


def warm(size: str, ampere: float, ambient_c: float, together: int, insulation_c: float) -> float:
    """The temperature of a wire that carries a current [degC]: the air's, and more by the square of
    how near it is to what it carries.
    """
    most = carries(size, ambient_c, together, insulation_c)
    return (
        ambient_c + (insulation_c - ambient_c) * min((ampere / most) ** 2, 1.0)
        if most > 0
        else max(ambient_c, insulation_c)
    )


def sizes(family: str) -> list[str]:
    """All sizes of a family, `metric` or `AWG`, thin ones first."""
    return sorted(
        (
            str(r["size"])
            for r in table("wires")
            if str(r["size"]).startswith("AWG") == (family == "AWG")
        ),
        key=area_mm2,
    )


def next_fuse(ampere: float) -> float | None:
    """The smallest fuse there is for a current [A]; None where none is large enough."""
    return next((float(r["ampere"]) for r in table("fuses") if r["ampere"] >= ampere), None)
