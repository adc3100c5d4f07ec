"""The narrowest throat on the fuel's way to the rail, through every hose, end, valve and fitting
whose bore is known.
"""

from dataclasses import dataclass

from tall_heron.core.document.circuit import Element
from tall_heron.core.study.study import Study


@dataclass(frozen=True)
class Throat:
    """Where it is: the part, which of its bores, and how wide [m]."""

    part: str
    where: str
    bore: float


def throats(element: Element) -> list[Throat]:
    """Every known bore of a part."""
    rows = []
    bore = getattr(element.figures, "bore_mm", None)
    if bore is not None:
        rows.append(Throat(element.id, "bore", bore / 1000))
    for name, end in (("end A", element.end_a), ("end B", element.end_b)):
        if end is not None:
            rows.append(Throat(element.id, name, end.throat_bore_mm / 1000))
    return rows


def narrowest(study: Study) -> Throat | None:
    """The narrowest of them up to the rail, the first where several are alike; None where no bore
    is known.
    """
    met = []
    for column in study.path.columns[: study.path.turn]:
        met += [t for e in column.elements for t in throats(e)]
    return min(met, key=lambda t: t.bore, default=None)
