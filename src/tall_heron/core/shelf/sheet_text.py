"""A maker's sheet as text, pasted: `label: value` a line, a pump's points as a table. What it says
is put under the fields of the form, in its own words; what is not understood is named.
"""

import re
from dataclasses import dataclass, field
from functools import cache

from tall_heron.core.base.catalogue import table

MOST_TEXT, MOST_LINES, MOST_VALUE = 20_000, 400, 100
KIND_LABELS = ("kind", "type", "category", "what it is")
NOT_IN_TITLE = (
    "hanger",
    "tank",
    "line",
    "rail",
    "valve",
)  # words of kinds that a title often holds for another reason
WORDS_OF_KIND = {
    "pump": "pump",
    "strainer": "strainer",
    "filter": "filter",
    "hose": "hose",
    "hard line": "line",
    "tube": "line",
    "regulator": "regulator",
    "check valve": "check",
    "injector": "injectors",
    "injectors": "injectors",
    "carburetor": "carburettor",
    "carburettor": "carburettor",
    "damper": "damper",
    "fuel cell": "tank",
    "surge tank": "tank",
    "swirl pot": "tank",
    "bulkhead": "fitting",
    "fitting": "fitting",
    "shut-off": "valve",
    "rail": "rail",
    "hanger": "hanger",
    "tank": "tank",
    "valve": "valve",
    "line": "line",
}
# What a choice is called on sheets, the first that is found: the field, its key, and the words.
CHOICES = {
    "pump_kind": (("gerotor", "gerotor"), ("roller", "roller"), ("turbine", "turbine")),
    "mount": (
        ("external", "extern|inline|in-line|outside|frame"),
        ("in-tank", "in-tank|in tank|intank|submers|inside"),
    ),
    "holds": (("inlet", "bypass|return|inlet"), ("outlet", "dead|blocking|outlet")),
    "reference": (
        ("manifold", "manifold|boost|vacuum"),
        ("hat", "hat"),
        ("atmosphere", "air|atmosph|none"),
    ),
    "fitted": (
        ("crimped", "crimp"),
        ("olive", "olive"),
        ("screwed", "screw|reusable"),
        ("push-on", "push"),
    ),
    "provenance": (("measured", "measur"), ("guessed", "guess|estimat"), ("sheet", "sheet|maker")),
    "terminals": (
        ("wide blade", "9.5"),
        ("blade", "blade|spade|6.3"),
        ("lug", "stud|screw|lug|ring"),
    ),
    "sort": tuple(
        (x, x) for x in ("wing tank", "side tank", "saddle tank", "cell", "pot", "header", "tank")
    ),
}
FLAGS = ("gasoline", "methanol", "avgas", "brushless", "speed_control")
SEPARATORS = (";", "\t", "|", ",")  # of a table's cells, the surest first
MOST_LINE = 300
NO = re.compile(r"\b(?:no|not|never|incompatible|without)\b")


@dataclass
class MakerSheet:
    """What a pasted text says: the kind of part, empty where it does not say; texts for the fields
    of the form; and the lines that were not understood.
    """

    kind: str = ""
    texts: dict[str, str] = field(default_factory=dict)
    unread: list[str] = field(default_factory=list)


def read_sheet(text: str, kind: str = "") -> MakerSheet:
    """A pasted sheet; `kind` is what the form asks for already, taken where the text does not say.
    Raises ValueError for a text that is no sheet.
    """
    if len(text) > MOST_TEXT:
        raise ValueError(
            f"A sheet of {len(text):,} letters is too long; paste the part with the figures, {MOST_TEXT:,} at most."
        )
    lines = [
        line.strip()[:MOST_LINE] for line in text.replace("\ufeff", "").splitlines() if line.strip()
    ][:MOST_LINES]
    if not lines:
        raise ValueError(
            "Nothing was pasted. Paste lines such as “Inlet: -10 ORB” or “Rated flow: 340 lph”."
        )
    rest, points = _points(lines)
    sheet = MakerSheet()
    pairs = [_pair(line) for line in rest]
    sheet.kind = _kind(pairs) or kind
    if points:
        sheet.texts["points"] = points
        sheet.kind = sheet.kind or "pump"
    for line, (label, unit, value) in zip(rest, pairs, strict=True):
        if not label:
            if "title" not in sheet.texts and line == rest[0]:
                sheet.texts["title"] = line[:MOST_VALUE]
            else:
                sheet.unread.append(line)
        elif label not in KIND_LABELS or not _kind_in(value):
            _take(sheet, line, label, unit, value)
    return sheet


def _points(lines: list[str]) -> tuple[list[str], str]:
    """The lines that are no table, and the table with its line of headers."""
    rows = [i for i, line in enumerate(lines) if _numbers(line)]
    if len(rows) < 2:
        return lines, ""
    first, last = rows[0], rows[-1]
    head = (
        first - 1
        if first
        and re.search(r"flow|pressure", lines[first - 1].lower())
        and any(x in lines[first - 1] for x in SEPARATORS)
        else first
    )
    table_lines = [line.replace("|", ";") for line in lines[head : last + 1]]
    return [*lines[:head], *lines[last + 1 :]], "\n".join(table_lines)


def _numbers(line: str) -> bool:
    """Whether a line is a row of two numbers or more, apart by one of the separators."""
    by = next((x for x in SEPARATORS if x in line), None)
    cells = [c.strip() for c in line.split(by)] if by is not None else []
    return len(cells) > 1 and all(
        c and c.lstrip("+-−").replace(".", "").replace(",", "").isdigit() for c in cells
    )


def _pair(line: str) -> tuple[str, str, str]:
    """Label, the unit that stands in brackets behind it, and value of a line; no label where it has
    none.
    """
    match = re.fullmatch(r"([^:=\t]{1,60}?)\s*(?::|=|\t)\s*(\S.*)", line)
    if match is None:
        return "", "", line
    label = match[1].strip().lower()
    unit = re.search(r"[(\[]([^)\]]{1,12})[)\]]\s*$", label)
    clean = re.sub(r"[(\[][^)\]]*[)\]]\s*$", "", label).strip(" ,.-•*")
    return (
        clean.replace("’", "'").replace(",", ""),
        unit[1] if unit else "",
        match[2].strip()[:MOST_VALUE],
    )


def _kind_in(text: str) -> str:
    low = text.lower()
    return next(
        (kind for words, kind in WORDS_OF_KIND.items() if re.search(rf"\b{words}s?\b", low)), ""
    )


def _kind(pairs: list[tuple[str, str, str]]) -> str:
    """The kind that a line says it is, else that the title holds."""
    kind_typed = next(
        (k for label, _, value in pairs if label in KIND_LABELS and (k := _kind_in(value))), ""
    )
    title = next(
        (
            value
            for label, _, value in pairs
            if not label or label in _words().get(("title", ""), ())
        ),
        "",
    )
    return kind_typed or _kind_in(title)


@cache
def _words() -> dict[tuple[str, str], tuple[str, ...]]:
    """The labels of each field, by the kind it is a field of; empty for any."""
    out: dict[tuple[str, str], tuple[str, ...]] = {}
    for r in table("sheet_words"):
        for kind in str(r["kinds"] or "").split() or [""]:
            out[str(r["field"]), kind] = tuple(str(r["words"]).split("|"))
    return out


def _take(sheet: MakerSheet, line: str, label: str, unit: str, value: str) -> None:
    """Put a line under its field; a field that has its text already keeps it."""
    mine = [
        (name, kind)
        for (name, kind), words in _words().items()
        if label in words and kind in ("", sheet.kind)
    ]
    name = next((n for n, kind in sorted(mine, key=lambda x: x[1] == "")), "")
    if name == "fuels":
        sheet.texts |= {k: v for k, v in fuels_said(value).items() if k not in sheet.texts}
    elif not name or name in sheet.texts:
        sheet.unread.append(line)
    elif name in CHOICES and (name, sheet.kind) != ("holds", "tank"):
        key = next((key for key, words in CHOICES[name] if re.search(words, value.lower())), "")
        if key:
            sheet.texts[name] = key
        else:
            sheet.unread.append(line)
    elif name in FLAGS:
        low = value.lower()
        yes = re.search(r"\byes\b|\bok\b|\bbrushless\b|\bpwm\b", low)
        if not yes and not NO.search(low) and "brushed" not in low:
            sheet.unread.append(line)
        else:
            sheet.texts[name] = "yes" if yes and not NO.search(low) else "no"
    else:
        sheet.texts[name] = (
            f"{value} {unit}" if unit and re.fullmatch(r"[-+]?[\d.,/ ]+", value) else value
        )


def fuels_said(text: str) -> dict[str, str]:
    """What a list of fuels says of each class, as the form takes it: gasoline, the share of
    ethanol, methanol, avgas.
    """
    out: dict[str, str] = {}
    for part in re.split(r"[,;]|\band\b|\bbut\b|\+", text.lower()):
        says = "no" if NO.search(part) else "yes"
        if re.search(r"gasoline|petrol|pump gas", part):
            out["gasoline"] = says
        if "methanol" in part:
            out["methanol"] = says
        if re.search(r"avgas|100ll", part):
            out["avgas"] = says
        share = re.search(r"\be\s?(\d{1,3})\b", part) or (
            re.search(r"(\d{1,3})\s?%", part)
            if "ethanol" in part and "methanol" not in part
            else None
        )
        if share and says == "yes":
            out["ethanol"] = (
                f"{max(int(share[1]), int(out.get('ethanol', '0').rstrip(' %') or 0))} %"
            )
        elif re.search(r"(?<!m)ethanol|\be\d", part):
            out.setdefault("ethanol", "100 %" if says == "yes" else "0 %")
    return out
