"""What findings say of figures with a sign and of one part or several, in one place."""

from collections.abc import Sequence

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.base.constants import KPA
from tall_heron.core.base.units import show
from tall_heron.core.rules.finding import FindingFigure


def named(parts: Sequence[str]) -> str:
    """Parts in a row, as one says them.

    >>> named(["P1"]), named(["P1", "P2"]), named(["P1", "P2", "P3"])
    ('P1', 'P1 and P2', 'P1, P2 and P3')
    """
    return " and ".join([", ".join(parts[:-1]), parts[-1]] if len(parts) > 1 else parts)


MOST_NAMED = 4  # parts or places in a sentence


def listed(names: Sequence[str]) -> str:
    """The first of many names, and how many more.

    >>> listed(["H1", "H2"]), listed(["H1", "H2", "H3", "H4", "H5", "H6"])
    ('H1, H2', 'H1, H2, H3, H4 and 2 more')
    """
    more = f" and {len(names) - MOST_NAMED} more" if len(names) > MOST_NAMED else ""
    return f"{', '.join(names[:MOST_NAMED])}{more}"


def does(parts: Sequence[str], one: str, several: str) -> str:
    """Parts with their verb.

    >>> does(["P1"], "has", "have"), does(["P1", "P2"], "has", "have")
    ('P1 has', 'P1 and P2 have')
    """
    return f"{named(parts)} {one if len(parts) == 1 else several}"


def headroom(
    parts: Sequence[str], share: float, over: str, figures: dict[str, FindingFigure]
) -> str:
    """What parts give over what is asked of them, or by how much they fall short; puts the figure,
    never below zero, into `figures`.

    >>> headroom(["P1", "P2"], -0.15, "the demand", {}), headroom(["P1"], 0.15, "the demand", {})
    ('P1 and P2 fall {short} short of the demand', 'P1 has {spare} headroom over the demand')
    """
    if share < 0:
        figures["short"] = FindingFigure(-share, "fraction")
        return f"{does(parts, 'falls', 'fall')} {{short}} short of {over}"
    figures["spare"] = FindingFigure(share, "fraction")
    return f"{does(parts, 'has', 'have')} {{spare}} headroom over {over}"


def off(pascal: float, figures: dict[str, FindingFigure]) -> str:
    """How far a pressure is off and which way; puts the figure, never below zero, into `figures`.

    >>> off(-2.0, {}), off(2.0, {})
    ('{off} low', '{off} high')
    """
    figures["off"] = FindingFigure(abs(pascal), "pressure_difference")
    return f"{{off}} {'high' if pascal > 0 else 'low'}"


def pressure_limit(name: str) -> str:
    """A pressure of the house figures in both units, as a rule says it.

    >>> pressure_limit("return_back_pressure")
    '35 kPa (5.1 psi)'
    """
    pascal = house_figure(name)
    return f"{pascal / KPA:g} kPa ({show(pascal, 'pressure', 'psi'):.2g} psi)"


def length_limit(mm: float) -> str:
    """A length [mm] in both units, as a rule says it.

    >>> length_limit(350)
    '350 mm (14 in)'
    """
    return f"{mm:g} mm ({show(mm / 1000, 'length', 'in'):.2g} in)"
