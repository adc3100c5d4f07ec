"""Packs: parts of one's own handed on, as JSON or CSV. What goes out comes in again as it was; what
is not sound is refused whole, each fault with its row and column.
"""

import json
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any, Literal

from pydantic import TypeAdapter, ValidationError

from tall_heron.core.base.csv_text import csv_text
from tall_heron.core.base.table_text import read_table
from tall_heron.core.base.units import parse_dash
from tall_heron.core.document.build import readable
from tall_heron.core.document.kinds import KINDS
from tall_heron.core.document.record import Name
from tall_heron.core.document.upgrade import upgraded_part
from tall_heron.core.shelf.own_part import ADAPTER, STEM, OwnPart, stem_of, stored
from tall_heron.core.shelf.shelf import CC_MIN_TO_LPH, SHEET_FUEL

FORMAT: Literal["tall-heron-pack/1"] = "tall-heron-pack/1"
MOST_PARTS, MOST_FAULTS = 5000, 200
FIRST = ("kind", "name", "title")  # columns of every pack
# Short columns that a catalogue has: where their figure goes, and how often the document's figure
# it is.
SHORT = {
    "price": ("properties.price", 1.0),
    "mass_kg": ("properties.mass_kg", 1.0),
    "dash": ("properties.dash", 1.0),
    "family": ("properties.family", 1.0),
    "mount": ("properties.mount", 1.0),
    "ethanol_max_percent": ("properties.ethanol_max_percent", 1.0),
    "methanol": ("properties.methanol", 1.0),
    "micron": ("properties.micron", 1.0),
    "medium": ("properties.medium", 1.0),
    "rated_kpa": ("properties.rated_kpa", 1.0),
    "working_kpa": ("properties.working_kpa", 1.0),
    "bend_radius_mm": ("properties.bend_radius_mm", 1.0),
    "provenance": ("properties.provenance", 1.0),
    "bore_mm": ("figures.bore_mm", 1.0),
    "roughness_um": ("figures.roughness_um", 1.0),
    "loss_coefficient": ("figures.loss_coefficient", 1.0),
    "rated_cc_min": ("figures.rated_lph", CC_MIN_TO_LPH),
    "cracking_kpa": ("figures.cracking_kpa", 1.0),
}
POINTS, FLOW, DROP = "points", "flow_lph", "drop_kpa"  # columns that need reading of their own
WORDS_OF_KIND = {"injector": "injectors", "carburetor": "carburettor", "tube": "line"}
LAW_OF_KIND = {
    "pump": "pump",
    "filter": "quadratic",
    "strainer": "quadratic",
    "injectors": "injectors",
    "check": "check",
    "tank": "tank",
}
LAW_OF_KIND |= dict.fromkeys(("hose", "line"), "pipe") | dict.fromkeys(("fitting", "valve"), "loss")
TEXTS = (
    "title",
    "name",
    "kind",
    "dash",
    "family",
    "mount",
    "medium",
    "provenance",
    "law",
    "noise",
)  # columns that hold words, by their last word


@dataclass(frozen=True)
class PackFault:
    """What is wrong in a pack: its row as a spreadsheet counts them (of JSON, the number of the
    part), its column, and in words.
    """

    row: int
    column: str
    says: str


class PackFaults(ValueError):
    """A pack that is not taken, for all its faults."""

    def __init__(self, faults: list[PackFault]) -> None:
        super().__init__(f"{len(faults)} faults")
        self.faults = faults


@dataclass(frozen=True)
class PackDifference:
    """A part of a pack beside what is on the shelf under its name: `new`, `same`, or the fields in
    which it `differs`.
    """

    name: str
    part: OwnPart
    state: Literal["new", "same", "differs"]
    fields: tuple[str, ...]


def pack_json(parts: Mapping[str, OwnPart]) -> str:
    """A pack as JSON."""
    rows = [{"name": name, **json.loads(stored(p))} for name, p in parts.items()]
    return json.dumps({"format": FORMAT, "parts": rows}, ensure_ascii=False, indent=1)


def pack_csv(parts: Mapping[str, OwnPart]) -> str:
    """A pack as CSV: a column for each figure by its path in the document, lists as JSON within
    their cell.
    """
    rows = [
        {"kind": p.kind, "name": name, "title": p.title} | dict(_flat(_document(p)))
        for name, p in parts.items()
    ]
    columns = [*FIRST, *sorted({c for row in rows for c in row} - set(FIRST))]
    return csv_text(columns, ([row.get(c, "") for c in columns] for row in rows))


def schema() -> dict[str, Any]:
    """The JSON Schema of a pack."""
    part = ADAPTER.json_schema()
    defs = part.pop("$defs", {})
    part["properties"].pop("typed")  # what stood in the form stays with whoever typed it
    part["properties"] = {"name": TypeAdapter(Name).json_schema(), **part["properties"]}
    fields = {
        "format": {"const": FORMAT},
        "parts": {"type": "array", "maxItems": MOST_PARTS, "items": part},
    }
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": FORMAT,
        "type": "object",
        "required": ["format", "parts"],
        "$defs": defs,
        "properties": fields,
    }


def read_pack(text: str) -> dict[str, OwnPart]:
    """The parts of a pack by their names, JSON or CSV. Raises PackFaults with all that is wrong;
    then none is taken.
    """
    text = text.removeprefix("\ufeff")
    rows = _json_rows(text) if text.lstrip()[:1] in ("{", "[") else _csv_rows(text)
    out: dict[str, OwnPart] = {}
    faults: list[PackFault] = []
    for number, row in rows:
        try:
            name, part = _part(number, row)
        except PackFaults as wrong:
            faults += wrong.faults
        else:
            if name in out:
                faults.append(PackFault(number, "name", f"{name} stands in the pack already"))
            out[name] = part
        if len(faults) >= MOST_FAULTS:
            break
    if faults:
        raise PackFaults(faults)
    return out


def compared(pack: Mapping[str, OwnPart], shelf: Mapping[str, OwnPart]) -> list[PackDifference]:
    """A pack beside the shelf, part by part."""
    out = []
    for name, part in pack.items():
        old = shelf.get(name)
        now, before = (
            dict(_flat(_document(part))),
            dict(_flat(_document(old))) if old is not None else {},
        )
        fields = tuple(sorted(k for k in {*now, *before} if now.get(k) != before.get(k)))
        if old is not None and old.title != part.title:
            fields = ("title", *fields)
        out.append(
            PackDifference(
                name,
                part,
                "new" if old is None else "differs" if fields else "same",
                fields if old is not None else (),
            )
        )
    return out


def _document(part: OwnPart) -> dict[str, Any]:
    return {k: v for k, v in json.loads(stored(part)).items() if k in ("figures", "properties")}


def _flat(data: dict[str, Any], before: str = "") -> Iterable[tuple[str, Any]]:
    for key, value in data.items():
        if isinstance(value, dict) and value:
            yield from _flat(value, f"{before}{key}.")
        else:
            yield (
                before + key,
                json.dumps(value) if isinstance(value, list | dict | bool) else value,
            )


def _json_rows(text: str) -> list[tuple[int, dict[str, Any]]]:
    try:
        data = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise PackFaults(
            [PackFault(getattr(error, "lineno", 1), "", f"this is no JSON: {error}")]
        ) from None
    if (
        not isinstance(data, dict)
        or data.get("format") != FORMAT
        or not isinstance(data.get("parts"), list)
    ):
        raise PackFaults(
            [PackFault(1, "format", f"a pack says “format”: “{FORMAT}” and lists its “parts”")]
        )
    _few(len(data["parts"]))
    return [(i, row if isinstance(row, dict) else {}) for i, row in enumerate(data["parts"], 1)]


def _csv_rows(text: str) -> list[tuple[int, dict[str, Any]]]:
    try:
        table = read_table(text)
    except ValueError as error:
        raise PackFaults([PackFault(1, "", f"this is no CSV: {error}")]) from None
    columns = table.heads
    faults = [
        PackFault(
            1, c or f"column {i}", "no such column; see the pack's own head for those there are"
        )
        for i, c in enumerate(columns, 1)
        if not _known(c)
    ]
    faults += [
        PackFault(1, c, "this column is missing") for c in ("kind", "title") if c not in columns
    ]
    faults += [
        PackFault(1, c, "this column stands twice")
        for c in dict.fromkeys(columns)
        if columns.count(c) > 1
    ]
    if faults:
        raise PackFaults(faults[:MOST_FAULTS])
    _few(len(table.rows))
    return [(i, _unflat(dict(zip(columns, line, strict=False)))) for i, line in table.rows]


def _few(count: int) -> None:
    if count > MOST_PARTS:
        raise PackFaults(
            [
                PackFault(
                    1,
                    "",
                    f"{count:,} parts are more than the {MOST_PARTS:,} that one pack may hold; make two of it",
                )
            ]
        )


def _known(column: str) -> bool:
    return (
        column in FIRST
        or column in SHORT
        or column in (POINTS, FLOW, DROP)
        or column.startswith(("figures.", "properties."))
    )


def _unflat(cells: dict[str, str]) -> dict[str, Any]:
    """A row's cells as a document, what is empty left out."""
    out: dict[str, Any] = {}
    for column, cell in cells.items():
        text = cell.strip()
        if text[:1] == "'" and text[1:2] in ("=", "+", "-", "@", "'"):
            text = text[1:]
        if not text:
            continue
        path, times = SHORT.get(column, (column, 1.0))
        here = out
        *way, last = path.split(".")
        for step in way:
            here = here.setdefault(step, {})
            if not isinstance(here, dict):
                raise PackFaults([PackFault(1, column, "this column lies within another")])
        here[last] = _value(text, column, times)
    return out


def _value(text: str, column: str, times: float) -> Any:
    if column.rpartition(".")[2] in TEXTS:
        return text
    if text in ("yes", "true", "TRUE"):
        return True
    if text in ("no", "false", "FALSE"):
        return False
    if text[:1] in ("[", "{"):
        try:
            return json.loads(text)
        except ValueError:
            return text
    number = text.replace(",", ".") if text.count(",") == 1 and "." not in text else text
    try:
        return float(number) * times
    except ValueError:
        return text


def _part(number: int, row: dict[str, Any]) -> tuple[str, OwnPart]:
    """A row as a part with its name. Raises PackFaults."""
    kind = WORDS_OF_KIND.get(str(row.get("kind", "")).lower(), str(row.get("kind", "")))
    title = str(row.get("title", "")).strip()
    data = upgraded_part(
        {
            "title": title,
            "kind": kind,
            "figures": row.get("figures") or {},
            "properties": row.get("properties") or {},
        }
    )
    if kind not in KINDS:
        raise PackFaults(
            [
                PackFault(
                    number,
                    "kind",
                    f"“{kind}” is no kind of part; write {', '.join(sorted(LAW_OF_KIND))}",
                )
            ]
        )
    facts = data["properties"]
    if isinstance(facts, dict) and facts.get("dash"):
        try:
            parse_dash(str(facts["dash"]))
        except ValueError as error:
            raise PackFaults([PackFault(number, "dash", str(error))]) from None
    if isinstance(data["figures"], dict):
        data["figures"] = _figures(number, kind, row, dict(data["figures"]))
    try:
        part = ADAPTER.validate_python(data)
    except ValidationError as error:
        raise PackFaults([_fault(number, e, data) for e in error.errors()[:20]]) from None
    name = str(row.get("name", "")).strip() or stem_of(title)
    try:
        return str(
            TypeAdapter(Name).validate_python(name if name.startswith(STEM) else stem_of(name))
        ), part
    except ValidationError:
        raise PackFaults(
            [PackFault(number, "name", "a name has 1 to 40 letters, digits, spaces, _ and -")]
        ) from None


def _figures(
    number: int, kind: str, row: dict[str, Any], figures: dict[str, Any]
) -> dict[str, Any]:
    """The figures of a part, from the columns of a catalogue where it says them in those."""
    law = figures.setdefault("law", LAW_OF_KIND.get(kind, "loss"))
    sheet = SHEET_FUEL.model_dump()
    if law == "pump" and "curves" not in figures and POINTS in row:
        figures |= {
            "curves": [{"voltage_v": 13.5, "rows": _points(number, str(row[POINTS]))}],
            "measured_with": sheet,
        }
    if law == "quadratic" and FLOW in row and DROP in row:
        flow, drop = row[FLOW], row[DROP]
        if not all(isinstance(x, float) and x > 0 for x in (flow, drop)):
            raise PackFaults(
                [PackFault(number, FLOW, "a flow and its drop are numbers above zero")]
            )
        figures |= {
            "a_kpa_per_lph": drop / 2 / flow,
            "b_kpa_per_lph2": drop / 2 / flow**2,
            "measured_with": sheet,
        }  # half laminar, half turbulent, as the shelf's own
    if law == "injectors":
        figures.setdefault("commanded_at_kpa", figures.get("rated_kpa", 300.0))
    if law == "loss":
        figures.setdefault("loss_coefficient", 1.0)
    return figures


def _points(number: int, text: str) -> list[list[float]]:
    """`0@600@12; 200@400@9`: flow [L/h] at a pressure [kPa], and the current [A] where it is known,
    at 13.5 V.
    """
    try:
        rows = [[float(x) for x in point.split("@")] for point in text.split(";") if point.strip()]
    except ValueError:
        rows = []
    if len(rows) < 2 or any(len(r) not in (2, 3) for r in rows):
        raise PackFaults(
            [
                PackFault(
                    number,
                    POINTS,
                    "write flow@pressure or flow@pressure@current, apart by ;, such as 0@600@12; 200@400@9 (L/h, kPa, A)",
                )
            ]
        )
    return rows


def _fault(number: int, error: Any, data: dict[str, Any]) -> PackFault:
    """What pydantic finds wrong, by its column."""
    law = data["figures"].get("law") if isinstance(data.get("figures"), dict) else None
    where = [str(x) for x in error["loc"] if str(x) != law]
    path = ".".join(where)
    short = next((c for c, (p, _) in SHORT.items() if p == path), path)
    return PackFault(number, short, readable(error).message)
