"""The cut list and the buy list of hoses: rows, no HTML."""

from collections import Counter
from dataclasses import dataclass

from tall_heron.core.base.arithmetic import Why
from tall_heron.core.document.circuit import Circuit, Element
from tall_heron.core.document.kinds import LINES
from tall_heron.core.routing.laid import Laid


@dataclass(frozen=True)
class Cut:
    """One hose: face to face [mm], both take-ups [mm], the length to cut [mm] or None with what is wrong."""

    element: Element
    face_mm: float
    take_up_mm: tuple[float, float]
    cut_mm: float | None
    wrong: str
    why: Why


@dataclass(frozen=True)
class Buy:
    """One line of the buy list: hose is bought by length [mm], ends by piece; price and mass where known [kg]."""

    title: str
    quantity: float
    unit: str
    price: float | None
    mass_kg: float | None


def make_cut_rows(circuit: Circuit) -> list[Cut]:
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
            wrong = (
                f"{e.id} is too short: its ends take up {_mm(a + b)} of {_mm(e.length.mm)}. Choose shorter ends or move the parts apart."
            )
        rows.append(
            Cut(e, e.length.mm, (a, b), cut if cut > 0 else None, wrong, Why((step,), "Take-up of each end: maker's sheet (invented)."))
        )
    return rows


def _mm(value: float) -> str:
    text = f"{value:,.1f}".removesuffix(".0")
    return text.replace("-", "−") + " mm"


def make_buy_rows(cuts: list[Cut]) -> list[Buy]:
    """Hose by family and size in one length each, ends by piece, dearest hose first."""
    hose: dict[str, list[Cut]] = {}
    for row in cuts:
        hose.setdefault(row.element.title, []).append(row)
    out = []
    for title, rows in hose.items():
        mm = sum(r.cut_mm or 0.0 for r in rows)
        about = rows[0].element.properties
        price = about.price * mm / 1000 if about.price is not None else None
        mass = about.mass_kg * mm / 1000 if about.mass_kg is not None else None
        out.append(Buy(title, mm, "mm", price, mass))
    counted = Counter(e.shelf or "end" for row in cuts for e in (row.element.end_a, row.element.end_b) if e)
    ends = {e.shelf or "end": e for row in cuts for e in (row.element.end_a, row.element.end_b) if e}
    for name, count in sorted(counted.items()):
        e = ends[name]
        title = f"{e.dash.replace('-', '−')} {e.family} end, {'straight' if e.angle_deg == 0 else f'{e.angle_deg:g}°'}"
        price = e.price * count if e.price is not None else None
        out.append(Buy(title, count, "piece", price, e.mass_kg * count if e.mass_kg is not None else None))
    return out


CLAMP = "line clamp"


def make_route_rows(laid: Laid) -> list[Buy]:
    """What a drawn route asks for beside hoses and ends: clamps by the outer width of the line, guards by their length, grommets. Lines that nobody has drawn ask for nothing yet."""
    clamps, guards, grommets = Counter[float](), dict[str, float](), 0
    for line in laid.lines.values():
        if not line.drawn or line.inside:
            continue
        clamps[round(2 * line.outside, 1)] += len(line.clamps)
        for guard in line.route.guards:
            guards[guard.kind] = guards.get(guard.kind, 0.0) + guard.to_mm - guard.from_mm
        grommets += len(line.route.grommets)
    rows = [Buy(f"{CLAMP}, lined, {_mm(width)}", count, "piece", None, None) for width, count in sorted(clamps.items()) if count]
    rows += [Buy(kind, mm, "mm", None, None) for kind, mm in sorted(guards.items())]
    return [*rows, *([Buy("grommet", grommets, "piece", None, None)] if grommets else [])]
