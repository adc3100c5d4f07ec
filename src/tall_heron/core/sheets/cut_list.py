"""The cut list: rows, no HTML."""

from dataclasses import dataclass

from tall_heron.core.base.arithmetic import Why
from tall_heron.core.document.circuit import Circuit, Element
from tall_heron.core.document.kinds import LINES


@dataclass(frozen=True)
class HoseCut:
    """One hose: face to face [mm], both take-ups [mm], the length to cut [mm] or None with what is
    wrong.
    """

    element: Element
    face_mm: float
    take_up_mm: tuple[float, float]
    cut_mm: float | None
    wrong: str
    why: Why


def make_cut_rows(circuit: Circuit) -> list[HoseCut]:
    """Cut length = face to face less what both ends take up, hose by hose in document order."""
    rows = []
    for e in circuit.elements:
        if e.length is None or e.kind not in LINES:
            continue
        a, b = (end.take_up_mm if end else 0.0 for end in (e.end_a, e.end_b))
        cut = e.length.mm - a - b
        step = f"{_mm(e.length.mm)} face to face − {_mm(a)} end A − {_mm(b)} end B = {_mm(cut)}"
        wrong = ""
        if cut <= 0:
            wrong = f"{e.id} is too short: its cut-off allowances are {_mm(a + b)} of {_mm(e.length.mm)}. Choose shorter ends or move the parts apart."
        rows.append(
            HoseCut(
                e,
                e.length.mm,
                (a, b),
                cut if cut > 0 else None,
                wrong,
                Why((step,), "Cut-off allowance of each end: maker's sheet (invented)."),
            )
        )
    return rows


def _mm(value: float) -> str:
    text = f"{value:,.1f}".removesuffix(".0")
    return text.replace("-", "−") + " mm"
