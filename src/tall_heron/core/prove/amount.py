"""What was caught, in the words of whoever caught it: `1.5 gal in 47 s`, `2.35 kg in 40 s`, `88
L/h`.
"""

import re
from dataclasses import dataclass

from tall_heron.core.base.arithmetic import format_number
from tall_heron.core.base.constants import LPH
from tall_heron.core.base.units import parse

LONGEST = 80  # letters of an amount with its time
IN = re.compile(
    r"(?P<much>.+?) (?:in|over|/) (?P<time>[0-9].*)", re.IGNORECASE
)  # of a text whose spaces are single
TIME = (
    (re.compile(r"\bsec(?:ond)?s?\b", re.IGNORECASE), "s"),
    (re.compile(r"\bminutes?\b|\bmins\b", re.IGNORECASE), "min"),
)
MINUTES = re.compile(
    r"^(?P<min>\d{1,3})\s*(?::|min)\s*(?P<s>\d{1,2}(?:[.,]\d+)?)\s*s?$"
)  # 1:14, 1 min 14 s
GALLONS = re.compile(r"\b(us|imp(?:erial)?)\.?\s+gal(?:lons?|s)?\b", re.IGNORECASE)


@dataclass(frozen=True)
class Caught:
    """A flow [m3/s] with how it was caught: volume [m3] or mass [kg] and time [s], where those were
    said; the arithmetic, and whether it was weighed.
    """

    flow: float
    volume: float | None
    mass: float | None
    seconds: float | None
    steps: tuple[str, ...]


def read_caught(text: str, density: float, plain: str, near: float | None = None) -> Caught:
    """A flow as it was caught; a mass is divided by the fuel's density [kg/m3]; a flow of `2,260`
    is read as what lies nearer to the one said [m3/s]. Raises ValueError with what would be right.

    >>> round(read_caught("1.5 US gal in 47 s", 742, "l/h").flow * 3.6e6, 1), round(read_caught("2.35 kg in 40 s", 742, "l/h").flow * 3.6e6, 1)
    (434.9, 285.0)
    """
    if len(text) > LONGEST:
        raise ValueError("that is longer than an amount can be; write for example 1.5 gal in 47 s")
    text = " ".join(text.split())
    for words, word in TIME:
        text = words.sub(word, text)
    text = GALLONS.sub(lambda m: f"{'us' if m[1].lower() == 'us' else 'imp'}gal", text)
    caught = IN.fullmatch(text)
    if caught is None:
        flow = parse(text, "volume_flow", plain, near)
        if flow < 0:
            raise ValueError("nothing flows into the can less than zero; write what was collected")
        return Caught(flow, None, None, None, ())
    split = MINUTES.match(caught["time"])
    seconds = (
        60 * float(split["min"]) + float(split["s"].replace(",", "."))
        if split
        else parse(caught["time"], "duration", "s")
    )
    if seconds <= 0:
        raise ValueError("write the time it took, such as 47 s")
    much = caught["much"]
    unit = (re.search(r"[^\W\d_]+$", much.rstrip(".")) or [""])[0].lower()
    if unit in ("kg", "g", "lb", "lbs"):
        mass = parse(much, "mass", "kg")
        if mass < 0:
            raise ValueError("write what was collected, above zero")
        flow = mass / density / seconds
        return Caught(
            flow,
            None,
            mass,
            seconds,
            (
                f"{format_number(mass, 4)} kg ÷ {format_number(density / 1000, 4)} kg/L ÷ {format_number(seconds)} s × 3,600 = {format_number(flow / LPH, 4)} L/h",
            ),
        )
    if not unit:
        raise ValueError(
            "liters, gallons or kilograms? Write for example 1.5 US gal in 47 s or 2.35 kg in 40 s"
        )
    bare = unit in ("gal", "gals", "gallon", "gallons")
    try:
        volume = parse(re.sub(r"(?i)gal(lon)?s?$", "usgal", much) if bare else much, "volume", "l")
    except ValueError as error:
        raise ValueError(
            f"{error} Write for example 1.5 US gal in 47 s, 5.7 L in 47 s or 2.35 kg in 40 s.".replace(
                "..", "."
            )
        ) from None
    if volume < 0:
        raise ValueError("write what was collected, above zero")
    flow = volume / seconds
    read = ("a gallon is read as US, 3.785 L; write impgal for an imperial one",) if bare else ()
    return Caught(
        flow,
        volume,
        None,
        seconds,
        (
            *read,
            f"{format_number(1000 * volume, 4)} L ÷ {format_number(seconds)} s × 3,600 = {format_number(flow / LPH, 4)} L/h",
        ),
    )
