"""One free line of a builder, `turbo six 4.2 L, 620 hp, E70, 58 psi + 22`, read into fields of the brief, with how each piece was read."""

import re
from dataclasses import dataclass, field
from typing import Any

from tall_heron.core.base.constants import CELSIUS
from tall_heron.core.base.units import QUANTITIES, parse
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.physics.fuel import fuel_named

COUNTS = {"three": 3, "four": 4, "five": 5, "six": 6, "eight": 8, "ten": 10, "twelve": 12}
FUELS = {"petrol": "E10", "gasoline": "E10", "avgas": "100LL", "ethanol": "E100"}
USES = {
    "street": "street",
    "drag": "drag",
    "circuit": "circuit",
    "track": "circuit",
    "off-road": "off-road",
    "rally": "off-road",
    "rallycross": "off-road",
    "buggy": "off-road",
    "aircraft": "flight",
    "airplane": "flight",
    "aeroplane": "flight",
    "flight": "flight",
    "biplane": "flight",
    "floatplane": "flight",
    "pusher": "flight",
}
FEEDINGS = {
    "carburettor": "carburettor",
    "carburetor": "carburettor",
    "carb": "carburettor",
    "injection": "injection",
    "injected": "injection",
    "efi": "injection",
}
BOOSTED = ("turbo", "turbocharged", "twin-turbo", "supercharged", "blown", "boosted")
LOW_KPA, KPA_OF_A_PSI = 103.4, 6.894757  # no injection runs on less
NAMING = 4  # words of a name at most, before a comma
SHAPES = (
    "straight",
    "inline",
    "flat",
    "boxer",
    "engine",
    "cylinder",
    "cylinders",
    "cyl",
    "on",
    "at",
    "base",
    "boost",
    "car",
    "natural",
    "naturally",
    "aspirated",
    "twin",
    "single",
)
TWO_BANKS = ("flat", "boxer")  # and v6, v8, flat-four
# Words of several: what they are of the brief, or which layout they ask for.
PHRASES: tuple[tuple[str, str, str, str], ...] = (
    (r"carb(?:uretor|urettor)?s?\s+to\s+(?:efi|injection)", "feeding", "injection", "fed by injection from now on"),
    (r"(?:two\s+)?wing\s+tanks?", "use", "flight", "an aircraft's tanks"),
    (r"flex(?:[ -]?fuel)?", "ethanol_range", "flex", "any blend: E0 to E85"),
    (r"high[ -]wing", "use", "flight", "an aircraft"),
    (r"low[ -]wing", "layout", "A2", "a low wing: gravity does not feed it"),
    (r"saddle\s+tank", "layout", "C10", "a saddle tank and its jet pump"),
    (r"surge\s+pot", "layout", "C7", "a surge pot and its lift pump"),
    (r"return-?less", "layout", "C3", "no return: the pump's speed is controlled"),
    (r"engine[ -]driven\s+pump", "layout", "C9", "a pump on the engine"),
    (r"header\s+tanks", "layout", "A4", "a header for each wing"),
    (r"gravity", "layout", "A1", "gravity feed"),
)
WHEELS = re.compile(r"(?<![\w.])(\d+(?:\.\d+)?)\s*(?:w|rw|aw)hp\b", re.IGNORECASE)
AT_WHEELS = 0.15  # of crank power, lost on the way to the wheels: common practice
GROUPED = re.compile(r"(?<![\w.,])(\d{1,3}(?:,\d{3}){1,5})(?=\s*[a-zA-Z])|(?<![\w.,-] )(?<![\w.,])(1 \d{3})(?=\s*(?:hp|bhp|ps|kw)\b)", re.IGNORECASE)
BANKED = re.compile(r"\b(flat|boxer|straight|inline) (\d{1,2})\b(?!\s*(?:[.,]\d|hp|bhp|ps|kw|psi|bar|kpa|l\b|ci))", re.IGNORECASE)
COUNTED = re.compile(r"\b(turbo|supercharged|blown|injected) (\d{1,2})\b(?=\s*(?:,|;|$|\d))(?!\s*[.,]\d)", re.IGNORECASE)
POUNDS = re.compile(r"(?<![\w.])(\d+(?:\.\d+)?)\s*(?:lbs?|pounds?)\b(?!\s*/)", re.IGNORECASE)
FILLERS = ("on", "at", "base", "boost")  # words that say nothing of what it is
# field of the brief: quantity, unit of a bare number, document figure = SI * scale + offset
FIGURES = {
    "displacement_l": ("volume", "l", 1000.0, 0.0),
    "power_kw": ("power", "hp", 1e-3, 0.0),
    "voltage_v": ("voltage", "v", 1.0, 0.0),
    "fuel_temperature_c": ("temperature", "c", 1.0, -CELSIUS),
    "altitude_m": ("length", "m", 1.0, 0.0),
}
_FIGURE = re.compile(r"(?<![\w.])(\d+(?:[.,]\d+)?)\s*([a-zA-Z°/µ]+)(?![\w])")
_SUM = re.compile(
    r"(?<![\w.])(\d+(?:\.\d+)?)\s*(psi|bar|kpa)?\s*(?:base)?\s*\+\s*(\d+(?:\.\d+)?)\s*(psi|bar|kpa)?\s*(?:boost)?", re.IGNORECASE
)


@dataclass
class Reading:
    """`fields` of the brief in document units with the text they came from in `typed`; `said` how each piece was read; `own` words that are the builder's own
    and go, with those of engine and boost, into what it is; `unread` what looks like a figure and is none that is known, or may be two things. `layout` is the one the
    words ask for, `banks` how many banks the engine has, where they say so."""

    name: str = ""
    fields: dict[str, Any] = field(default_factory=dict)
    typed: dict[str, str] = field(default_factory=dict)
    said: list[tuple[str, str]] = field(default_factory=list)
    own: list[str] = field(default_factory=list)
    unread: list[str] = field(default_factory=list)
    layout: str = ""
    banks: int | None = None


def read_line(text: str) -> Reading:
    """Read one line. A figure that is not understood is listed, never guessed; words that are not are kept as the builder's own.

    >>> r = read_line("Sandpiper: turbo six 4.2 L, 620 hp, E70, 58 psi + 22")
    >>> r.name, r.fields["cylinders"], r.fields["fuel"], round(r.fields["power_kw"]), round(r.fields["base_kpa"]), round(r.fields["boost_kpa"]), r.unread
    ('Sandpiper', 6, 'E70', 462, 400, 152, [])
    """
    out = Reading()
    head, colon, rest = text.partition(":")
    if colon and re.search(r"[A-Za-z]", head):
        out.name, text = head.strip(), rest
    elif (named := _name_before_a_comma(text)) is not None:
        out.name, text = named
    text = GROUPED.sub(lambda m: re.sub(r"\D", "", m[0]), text)
    text = COUNTED.sub(r"\1 \2 cyl", text)
    text = BANKED.sub(r"\1-\2", text)
    text = POUNDS.sub(lambda m: f"{m[1]} psi", text)
    text = WHEELS.sub(lambda m: _at_wheels(out, m), text)
    for pattern, name, value, meaning in PHRASES:
        if match := re.search(rf"\b{pattern}\b", text, re.IGNORECASE):
            text = text[: match.start()] + text[match.end() :]
            out.own.append(match[0])
            if name == "layout":
                out.layout = value
                if LAYOUTS[value].craft == "air":
                    out.fields["use"] = "flight"  # whatever other layout is asked for beside
                out.said.append((match[0], meaning))
            else:
                _keep(out, name, value, match[0], meaning)
    text = _pressures(out, text)
    text = _FIGURE.sub(lambda m: _figure(out, m), text)
    words = [w for w in re.findall(r"[^\s,;]+", text) if _word(out, w)]
    if "feeding" not in out.fields and "base_kpa" in out.fields and "boost_kpa" not in out.fields and out.fields["base_kpa"] < LOW_KPA:
        _keep(out, "feeding", "carburettor", out.typed["base_kpa"], f"under {LOW_KPA / KPA_OF_A_PSI:.0f} psi: a carburettor")
    title = " ".join([*words, out.typed.get("displacement_l", "")]).strip()[:120]
    if out.fields and title:
        out.fields["title"] = title
    if out.fields and out.own:
        out.said.append((" ".join(out.own), "kept in your own words"))
    return out


def _name_before_a_comma(text: str) -> tuple[str, str] | None:
    """A name and what comes after it, where a line starts with words of which none says anything of a build."""
    head, comma, rest = text.partition(",")
    words = re.findall(r"[^\s]+", head)
    known = {*COUNTS, *FUELS, *USES, *FEEDINGS, *BOOSTED, *SHAPES}
    plain = bool(words) and len(words) <= NAMING and all(re.fullmatch(r"[^\W\d_][^\W\d_'’-]*", w) and w.lower() not in known for w in words)
    said = any(re.search(rf"\b{pattern}\b", head, re.IGNORECASE) for pattern, *_ in PHRASES)
    return (head.strip(), rest) if comma and plain and not said and re.search(r"\d", rest) else None


def _at_wheels(out: Reading, match: re.Match[str]) -> str:
    """Power at the wheels is no figure of the engine's: it is asked about, with what it would be at the crank."""
    crank = float(match[1]) / (1 - AT_WHEELS)
    out.unread.append(f"{match[0]} (at the wheels: with {100 * AT_WHEELS:g} % lost on the way {crank:.0f} hp at the crank; write the one you mean in hp)")
    return ""


def _keep(out: Reading, name: str, value: Any, typed: str, words: str) -> None:
    out.fields[name], out.typed[name] = value, typed
    out.said.append((typed, words))


def _pressures(out: Reading, text: str) -> str:
    match = _SUM.search(text)
    if not match:
        return text
    base, unit, boost, boost_unit = match.groups()
    unit = unit or boost_unit or "psi"
    first, second = f"{base} {unit}", f"{boost} {boost_unit or unit}"
    _keep(out, "base_kpa", parse(first, "pressure", "psi") / 1000, first, "base pressure over the manifold")
    _keep(out, "boost_kpa", parse(second, "pressure", "psi") / 1000, second, "boost at peak, gauge")
    return text[: match.start()] + text[match.end() :]


def _figure(out: Reading, match: re.Match[str]) -> str:
    text, unit = match.group(0), match.group(2).lower()
    if unit in ("cyl", "cylinder", "cylinders"):
        _keep(out, "cylinders", int(float(match.group(1))), text, "cylinders")
        return ""
    if unit in QUANTITIES["pressure"].words:
        name = "boost_kpa" if "base_kpa" in out.fields else "base_kpa"
        try:
            value = parse(text, "pressure", "psi") / 1000
        except ValueError:
            out.unread.append(text)
            return ""
        _keep(out, name, value, text, "boost at peak, gauge" if name == "boost_kpa" else "base pressure over the manifold")
        return ""
    for name, (quantity, bare, scale, offset) in FIGURES.items():
        if unit in QUANTITIES[quantity].words and name not in out.fields:
            try:
                value = parse(text, quantity, bare)
            except ValueError:
                out.unread.append(text)  # such as 1,900: a thousand, or a decimal comma
                return ""
            _keep(out, name, float(f"{value * scale + offset:.9g}"), text, name.rsplit("_", 1)[0].replace("_", " "))
            return ""
    return text


def _word(out: Reading, word: str) -> bool:
    """Read one word; whether it tells what the thing is."""
    low = word.lower().strip(".")
    layout = re.fullmatch(r"(?:v|i|l|h|w|flat-?|inline-?|straight-?)-?(\d{1,2})", low)
    if low in COUNTS or layout:
        out.banks = (2 if low[0] in "vhw" or low.startswith(TWO_BANKS) else 1 if low[0] in "il" or low.startswith(("inline", "straight")) else out.banks) if layout else out.banks
        _keep(out, "cylinders", int(layout.group(1)) if layout else COUNTS[low], word, "cylinders")
        return True
    if low in FUELS or re.fullmatch(r"e\d{1,3}|methanol|100ll", low):
        try:
            _keep(out, "fuel", fuel_named(FUELS.get(low, low)).name, word, f"fuel {FUELS.get(low, '')}".strip())
        except ValueError:
            out.unread.append(word)
        return False
    if low in USES:
        _keep(out, "use", USES[low], word, "use")
    elif low in FEEDINGS:
        _keep(out, "feeding", FEEDINGS[low], word, "fed by")
    elif low in BOOSTED:
        out.said.append((word, "boosted" if "boost_kpa" in out.fields else "boosted: say by how much, as in 58 psi + 22"))
    elif low in ("flat", "boxer", "straight", "inline"):
        out.banks = 2 if low in TWO_BANKS else 1
    elif low not in SHAPES:
        own = re.fullmatch(r"[^\W\d_][^\W\d_'’&()/-]*(?:[-/'’][^\W\d_]+)*|\d-[^\W\d_]+|&", low) is not None
        (out.own if own else out.unread).append(word)
        return own
    return low not in FILLERS
