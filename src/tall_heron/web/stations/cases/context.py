"""What the Cases page shows."""

from dataclasses import dataclass
from typing import Any

from tall_heron.core.design import Design
from tall_heron.core.rules.cases import AT_LEAST, matrix_of
from tall_heron.core.study.cases.moments import solved_moments
from tall_heron.core.study.cases.requirements import Cell, Matrix, MatrixRow, Requirement
from tall_heron.web.answers import Stored
from tall_heron.web.frame import frame
from tall_heron.web.show.text import bare, number, unit_of
from tall_heron.web.stations.circuit.context import sided, the_try

MOST_SPARE = 4.0  # a spare beyond it is shown as more than that


@dataclass(frozen=True)
class Shown:
    """A cell as it is drawn: its figure, the small one beside it, the width of its bar [0 to 1],
    its level, and whether a swap that is tried changes it.
    """

    text: str
    beside: str
    left: float
    level: str
    changed: bool


def cell_text(column: Requirement, value: float) -> str:
    """A figure of a column in the reader's unit, without it."""
    return (
        number(value, 1)
        if column.quantity == "current"
        else (
            "> 400"
            if column.key == "spare" and value > MOST_SPARE
            else bare(value, column.quantity)
        )
    )


def _shown(column: Requirement, cell: Cell | None, was: Cell | None) -> Shown | None:
    if cell is None:
        return None
    text = cell_text(column, cell.value)
    changed = was is not None and (cell_text(column, was.value) != text or was.level != cell.level)
    return Shown(
        text,
        cell_text(column, cell.beside) if cell.beside is not None else "",
        cell.left,
        cell.level,
        changed,
    )


def limit_text(column: Requirement, matrix: Matrix) -> str:
    """What the limit of a column is, where all its cells share one."""
    limits = {c.limit for r in matrix.rows if (c := r.cells.get(column.key)) is not None}
    unit = _unit(column)
    if column.key == "rail":
        return f"{unit}, target"
    if len(limits) != 1:
        return unit
    return f"{unit} {'≥' if column.key in AT_LEAST else '≤'} {cell_text(column, limits.pop())}"


def _unit(column: Requirement) -> str:
    return "A" if column.quantity == "current" else unit_of(column.quantity)


def worst_sentence(matrix: Matrix) -> str:
    """The worst case in one sentence."""
    worst = matrix.worst
    if worst is None:
        return "No case is looked at: all are hidden."
    row, column = worst
    title = row.moment.case.title
    if column is None:
        return f"{title} does not solve. {row.trouble}."
    cell = row.cells[column.key]
    assert cell is not None
    unit = _unit(column)
    what = f"{column.title.lower() if not column.title[-1].isdigit() else column.title} {cell_text(column, cell.value)} {unit}"
    if not cell.level:
        return f"Every case is within every limit; {title.lower()} comes closest, {what}."
    limit = (
        f"{cell_text(column, cell.beside or 0.0)} {unit} target"
        if column.key == "rail"
        else f"{cell_text(column, cell.limit)} {unit} is the limit"
    )
    return (
        f"{title} fails{' worst' if len(matrix.rows) - matrix.passed > 1 else ''}: {what}, {limit}."
    )


def cases_context(found: Stored, made: Design, part: str = "", wanted: str = "") -> dict[str, Any]:
    """Everything the Cases page shows, with a swap tried in all cases."""
    trial = the_try(made, made.study.build.circuit.element(part), wanted, "")
    before = matrix_of(made.study)
    matrix = matrix_of(trial.made.study) if trial else before
    was = {r.moment.case.key: r for r in before.rows}
    rows = [
        (
            r,
            [
                _shown(
                    c, r.cells.get(c.key), _cell(was.get(r.moment.case.key), c) if trial else None
                )
                for c in matrix.columns
            ],
        )
        for r in matrix.rows
    ]
    return frame(found, made, "cases") | {
        "view": "matrix",
        "findings": sided(made.of_cases[0], trial.made.of_cases[0] if trial else None),
        "passed": made.of_cases[1],
        "matrix": matrix,
        "before": before,
        "rows": rows,
        "heads": heads(matrix),
        "limits": [limit_text(c, matrix) for c in matrix.columns],
        "worst": worst_sentence(matrix),
        "trial": {"part": part, "title": trial.title, "name": trial.name} if trial else None,
        "hidden": [
            x.moment
            for x in solved_moments(made.study, hidden=True)
            if x.moment.case.key in made.study.build.hidden_cases
        ],
    }


def heads(matrix: Matrix) -> list[tuple[str, str, bool]]:
    """The tightest figure of the requirements that matter most: words, figure, whether it is
    outside its limit.
    """
    out = []
    for key, words in (
        ("spare", "least headroom"),
        ("suction", "least vapor margin"),
        ("amps", "most current"),
        ("reach", "most of a tank out of reach"),
    ):
        column = next((c for c in matrix.columns if c.key == key), None)
        cells = [c for r in matrix.rows if (c := r.cells.get(key)) is not None]
        if column is not None and cells:
            cell = (min if key in AT_LEAST else max)(cells, key=lambda c: c.value)
            out.append(
                (f"{words}, {_unit(column)}", cell_text(column, cell.value), bool(cell.level))
            )
    return out


def _cell(row: MatrixRow | None, column: Requirement) -> Cell | None:
    return row.cells.get(column.key) if row is not None else None
