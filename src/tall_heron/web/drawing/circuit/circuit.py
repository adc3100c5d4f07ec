"""The strip of symbols and the pressure walk under it, on the same x: one column a part, in flow
order.
"""

from tall_heron.core.base.constants import GRAVITY, LPH
from tall_heron.core.base.units import show
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.kinds import PIPES
from tall_heron.core.document.mounts import HANGER
from tall_heron.core.document.path import PathColumn
from tall_heron.core.rules.finding import Finding, worst_level
from tall_heron.core.study.failures.failures import FAILS
from tall_heron.core.study.study import Solved, Study
from tall_heron.web.drawing.circuit.strip import LANE_GAP, SYMBOL_Y, CircuitStrip, make_strip
from tall_heron.web.drawing.circuit.walk import draw_walk
from tall_heron.web.drawing.picture import BOTTOM, TOP, Drawing, Mark, Symbol, Take
from tall_heron.web.show.text import MINUS, ROLES, bare, shown, signed
from tall_heron.web.show.units import unit

WIDTH, HEIGHT, HEIGHT_ROW = 900, 326, 22  # the last for what heights give and take, where any does
WORD_ROW = 18  # px, the second line of words of a dense strip
HALF_SHOWN = (
    0.5,
    0.05,
    0.005,
    0.0005,
)  # of a figure with so many decimals, the least that does not show as 0
FIRST_LANE = 58.0  # px that the first lane beside the path adds; each further one a lane's gap
UNDER_Y = 101.0  # px, where the name of the lower of two parts stands in a dense strip
WORDS = {
    "pump": "pump",
    "check": "check",
    "merge": "Y-block",
    "split": "Y-block",
    "rail": "rail",
    "regulator": "regulator",
    "valve": "shut-off",
}
PLURAL = {"pump": "pumps", "check": "checks", "filter": "filters"}


def draw_circuit(
    study: Study, solved: Solved, findings: list[Finding], chosen: str, tried: Solved | None = None
) -> Drawing:
    """The drawing of a study at one case with one part chosen, and the walk of a swap being tried
    over it.
    """
    strip = make_strip(study.path, study.build.circuit.elements, WIDTH)
    xs, down = strip.xs, FIRST_LANE + LANE_GAP * (strip.lanes - 1) if strip.lanes else 0.0
    out = Drawing(
        width=strip.width,
        height=HEIGHT + down,
        pitch=strip.pitch,
        dense=strip.dense,
        unit=unit("pressure").label,
        top=TOP + down,
        bottom=BOTTOM + down,
    )
    _strip(out, strip, study, solved, findings, chosen)
    if not solved.solution.converged:
        out.trouble = f"No pressures: {solved.solution.reason}."
        _takes(out, study, solved, chosen, xs, findings)
        return out
    other = tried if tried is not None and tried.solution.converged else None
    draw_walk(out, strip, study, solved, chosen, other)
    _takes(out, study, solved, chosen, xs, findings, other)
    return out


def worst(findings: list[Finding], ids: list[str]) -> str:
    """The worst level among the findings on some parts, or an empty text."""
    return worst_level(f.level for f in findings if f.element_id in ids)


LEAST_FLOW = 0.5 * LPH  # m3/s: a part with less is drawn as one that nothing flows through


def _strip(
    out: Drawing,
    strip: CircuitStrip,
    study: Study,
    solved: Solved,
    findings: list[Finding],
    chosen: str,
) -> None:
    if solved.case.key.startswith(FAILS):
        out.dead = {e.id for e in study.build.circuit.elements if _still(solved, e)}
    for column, x in zip(study.path.columns, strip.xs, strict=True):
        ids = [e.id for e in column.elements]
        apart = strip.dense and len(ids) == 2  # the second's name stands under it
        out.columns.append((x, ids[0] if apart else " ".join(ids), chosen in ids))
        if apart:
            out.under.append((x, UNDER_Y, ids[1]))
        if chosen in ids:
            out.chosen_x = x
        level = worst(findings, ids)
        if level:
            out.marks.append(Mark(level, x + 15, 22))
    for spot in sorted(strip.spots, key=lambda s: (s.x, s.tap, s.y)):
        element, beside = spot.element, spot.column is None or spot.tap
        level = worst(findings, [element.id])
        words = [
            f"{element.id} {element.title or element.kind}",
            takes_words(study, solved, element),
            level,
        ]
        letter = ROLES[spot.role] if element.kind in PIPES and spot.column is not None else ""
        if strip.dense and spot.y > SYMBOL_Y:
            letter = ""
        note = (
            take_text(element.kind, taken(study, solved, element))
            if spot.column is None and not spot.tap
            else ""
        )
        out.symbols.append(
            Symbol(
                element,
                spot.x,
                spot.y,
                spot.scale,
                ", ".join(w for w in words if w),
                element.id == chosen,
                letter,
                beside,
                spot.tap,
                note,
                spot.left,
                spot.named,
            )
        )
        if level and beside:
            out.marks.append(Mark(level, spot.x + 13, spot.y - (0 if spot.tap else 14)))
    out.lines, out.ends, out.joints = _alive(strip, out.dead), strip.ends, strip.joints
    names = ", ".join(name for _, name, _ in out.columns)
    out.description = f"Fuel circuit in flow order: {names}. Below it the gauge pressure at each part, in {out.unit}."


def _still(solved: Solved, element: Element) -> bool:
    """Whether next to nothing flows through a part."""
    flows = [x.flow for x in solved.solution.links.values() if x.element == element.id]
    return solved.solution.converged and bool(flows) and max(abs(q) for q in flows) < LEAST_FLOW


def _alive(strip: CircuitStrip, dead: set[str]) -> list[tuple[float, float, float, float, str]]:
    """The lines, those next to a part that nothing flows through marked as dead."""
    if not dead:
        return strip.lines
    spots = [s for s in strip.spots if not s.tap]

    def role(line: tuple[float, float, float, float, str]) -> str:
        x, y = (line[0] + line[2]) / 2, (line[1] + line[3]) / 2
        near = min(spots, key=lambda s: (s.x - x) ** 2 + (s.y - y) ** 2)
        return f"{line[4]} dead" if near.element.id in dead else line[4]

    return [(*line[:4], role(line)) for line in strip.lines]


def taken(study: Study, solved: Solved, element: Element) -> float | None:
    """What a part takes [Pa], below 0 what it gives, where it is solved; the height between its
    ends apart.
    """
    link = solved.solution.link(element.id)
    return (
        study.friction(solved, element.id)
        if link is not None and link.loss is not None and solved.solution.converged
        else None
    )


def take_text(kind: str, value: float | None) -> str:
    """The figure under a part: what it takes, or with a plus what a pump or a tank gives."""
    if value is None:
        return "—"
    gives = kind == "tank" or (kind == "pump" and value < 0)
    return (
        "+" + bare(abs(value), "pressure")
        if gives
        else bare(value, "pressure").replace(f"{MINUS}0.0", "0.0")
    )


def takes_words(study: Study, solved: Solved, element: Element) -> str:
    """What a part takes, in words for its label."""
    value = taken(study, solved, element)
    if value is None or not element.ports:
        return ""
    return (
        f"gives {shown(-value, 'pressure')}"
        if element.kind == "pump" and value < 0
        else f"pressure drop {shown(value, 'pressure')}"
    )


def word_for(column: PathColumn) -> str:
    """The short word under a column."""
    element, several = column.elements[0], len(column.elements) > 1
    if several and element.kind in PLURAL:
        return PLURAL[element.kind]
    if element.kind in PIPES and element.length is not None:
        return f"{element.properties.dash.replace('-', MINUS)} {shown(element.length.mm / 1000, 'run')}".strip()
    if element.kind in ("strainer", "filter") and element.properties.micron:
        return f"{element.properties.micron:g} µm"
    if element.kind == "tank":
        return {"pot": "surge", "header": "header"}.get(element.properties.family, "tank")
    if element.kind == "fitting":
        return (
            "hanger"
            if element.properties.mount == HANGER
            else "inlet"
            if element.properties.mount == "inlet"
            else "fitting"
        )
    return WORDS.get(element.kind, element.kind)[:9]


def column_taken(
    study: Study, solved: Solved | None, column: PathColumn
) -> tuple[float | None, float]:
    """Pressure over a column from its first node to its last [Pa], in two: by flow, and by the
    height between them.
    """
    if solved is None or not solved.solution.converged:
        return None, 0.0
    nodes = solved.solution.nodes
    if not column.start:
        return nodes.get(column.end), 0.0
    a, b = nodes.get(column.start), nodes.get(column.end)
    if a is None or b is None:
        return None, 0.0
    height = (
        solved.solution.density
        * GRAVITY
        * (study.height_at(solved, column.end) - study.height_at(solved, column.start))
    )
    return a - b - height, height


def _takes(
    out: Drawing,
    study: Study,
    solved: Solved,
    chosen: str,
    xs: list[float],
    findings: list[Finding],
    tried: Solved | None = None,
) -> None:
    for n, (column, x) in enumerate(zip(study.path.columns, xs, strict=True)):
        before = column_taken(study, solved, column)[0]
        loss, height = column_taken(study, tried or solved, column)
        ids = [e.id for e in column.elements]
        kind = column.elements[0].kind

        figure, was = take_text(kind, loss), take_text(kind, before)
        climbs = (
            signed(-height, "pressure")
            if abs(show(height, "pressure", unit("pressure").word))
            >= HALF_SHOWN[unit("pressure").decimals]
            else ""
        )
        out.takes.append(
            Take(
                x,
                figure,
                word_for(column),
                chosen in ids,
                worst(findings, ids) == "Stop",
                figure != was,
                climbs,
                out.dense and n % 2 == 1,
            )
        )
    if out.dense:
        out.height += WORD_ROW
    if any(t.height for t in out.takes):
        out.height += HEIGHT_ROW
