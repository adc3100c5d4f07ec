"""Numbers to display text: units, decimals, words. The one place where the wording of figures is
decided.
"""

import re
from datetime import UTC, datetime

from flask import Flask
from markupsafe import Markup, escape

from tall_heron.core.base.constants import CELSIUS, KPA
from tall_heron.core.base.terms import terms
from tall_heron.core.base.units import inches, show
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.properties import Properties
from tall_heron.core.document.tank_shape import out_of_reach_l
from tall_heron.core.fixing.fixes import Fix, key_of
from tall_heron.core.rules.finding import Finding, FindingFigure
from tall_heron.core.sizing.chooser import Reason
from tall_heron.web.show.findings import arranged, counts
from tall_heron.web.show.units import unit

SHOWN_AS = {"run": "length", "height": "length", "tank_volume": "volume"}
USUAL = {
    "pressure": 1,
    "pressure_difference": 1,
    "pressure_absolute": 1,
    "length": 0,
    "run": 1,
}  # decimals that a caller's wish for more counts from
ROLES = {"feed": "F", "return": "R", "suction": "S", "vent": "V", "reference": "X"}
MINUS = "−"
CURRENCY = "$"  # what prices of the shelf are in


def number(value: float, decimals: int = 0) -> str:
    """A number with thousands parted and a true minus; a rounded zero has no sign."""
    text = f"{value:,.{decimals}f}"
    if text.startswith("-"):
        text = text[1:] if not any(c in "123456789" for c in text) else MINUS + text[1:]
    return text


def percent(value: float, decimals: int = 0) -> str:
    """A share [-] in percent, without the sign."""
    return number(100 * value, decimals)


def cc_per_minute(value: float) -> str:
    """A flow [m3/s] as injectors are rated, cc/min, without the unit."""
    return number(value * 6e7)


def milligrams(value: float) -> str:
    """A mass [kg] in mg, without the unit."""
    return number(value * 1e6)


def milliwatts(value: float) -> str:
    """A power [W] in mW, without the unit."""
    return number(value * 1000)


def kg_per_liter(value: float) -> str:
    """A density [kg/m3] in kg/L, without the unit."""
    return number(value / 1000, 3)


def hundreds(value: float) -> int:
    """An engine speed [rpm] to the next hundred."""
    return round(value / 100) * 100


def bare(value: float | None, quantity: str, decimals: int | None = None) -> str:
    """A figure in the shown unit, without it; a dash where there is none. `decimals` beyond the
    usual of psi or mm are as many more in any unit.
    """
    if value is None:
        return "—"
    u = unit(quantity)
    extra = max(decimals - USUAL.get(quantity, u.decimals), 0) if decimals is not None else 0
    return number(in_unit(value, quantity), u.decimals + extra)


def in_unit(value: float, quantity: str) -> float:
    """A figure as a number in the shown unit."""
    return show(value, SHOWN_AS.get(quantity, quantity), unit(quantity).word)


def unit_of(quantity: str) -> str:
    """The unit a quantity is shown in."""
    return unit(quantity).label


def plus(value: float, decimals: int = 0) -> str:
    """A change with its sign."""
    text = number(value, decimals)
    return text if text.startswith(MINUS) or not any(c in "123456789" for c in text) else "+" + text


def signed(value: float, quantity: str, decimals: int = 0) -> str:
    """A change of a figure in the shown unit, with its sign."""
    return plus(
        show(value, quantity, unit(quantity).word),
        unit(quantity).decimals + max(decimals - USUAL.get(quantity, 0), 0),
    )


def shown(value: float | None, quantity: str, decimals: int | None = None) -> str:
    """A figure with its unit."""
    if quantity == "money" and value is not None:
        return money(value)
    return f"{bare(value, quantity, decimals)} {unit_of(quantity)}"


def _filled(text: str, figures: dict[str, FindingFigure]) -> Markup:
    """A finding's text with its figures in the shown units. Text and figures are escaped; the
    figures are marked as such. Only names of its own figures are places for them: what else stands
    in braces is a builder's own text, and stays as it was typed.
    """
    out, at = Markup(""), 0
    for place in re.finditer(r"\{(\w+)\}", text):
        figure = figures.get(place[1])
        if figure is None:
            continue
        decimals = (
            2
            if figure.quantity.startswith("pressure")
            and abs(show(figure.value, figure.quantity, "psi")) < 1
            else None
        )
        out += escape(text[at : place.start()]) + Markup("<b>%s</b>") % shown(
            figure.value, figure.quantity, decimals
        )
        at = place.end()
    return out + escape(text[at:])


def finding_text(finding: Finding, field: str) -> Markup:
    """One text of a finding (`title`, `why`, `do` or `source`)."""
    return _filled(getattr(finding, field), finding.figures)


def fix_text(fix: Fix) -> Markup:
    """What a fix does."""
    return _filled(fix.words, fix.figures)


def lacking_text(found: tuple[str, dict[str, FindingFigure]]) -> Markup:
    """What would have to exist."""
    return _filled(*found)


def reason_text(reason: Reason) -> Markup:
    """Why a layout is recommended, or when another would win."""
    return (
        _filled(reason.text.rstrip("."), reason.figures)
        if not reason.text[:1].isupper()
        else _filled(reason.text, reason.figures)
    )


def when(stamp: str) -> str:
    """A moment as a builder says it: today 09:40, 3 Nov."""
    moment = datetime.fromisoformat(stamp)
    now = datetime.now(UTC)
    if moment.date() == now.date():
        return f"today {moment:%H:%M} UTC"
    return f"{moment.day} {moment:%b}" + (f" {moment.year}" if moment.year != now.year else "")


def money(value: float, decimals: int = 0) -> str:
    """A price."""
    return f"{CURRENCY}\u00a0{number(value, decimals)}"


def more_money(value: float) -> str:
    """A change of price, with its sign."""
    return f"{CURRENCY}\u00a0{plus(value)}"


def ruled(meters: float | None) -> str:
    """A length in inches and sixteenths, as a rule is read."""
    return f"{inches(meters * 1000)} in" if meters is not None else "—"


def dash(text: str) -> str:
    """A dash size with a true minus."""
    return text.replace("-", MINUS)


def mm_shown(value: float | None, quantity: str = "length", decimals: int | None = None) -> str:
    """A length of the document [mm] with its unit."""
    return shown(None if value is None else value / 1000, quantity, decimals)


def mm_bare(value: float | None, quantity: str = "length", decimals: int | None = None) -> str:
    """A length of the document [mm] in the shown unit, without it."""
    return bare(None if value is None else value / 1000, quantity, decimals)


def kpa_shown(value: float | None, decimals: int | None = None) -> str:
    """A pressure of the document [kPa] with its unit."""
    return shown(None if value is None else value * KPA, "pressure", decimals)


def kpa_bare(value: float | None, decimals: int | None = None) -> str:
    """A pressure of the document [kPa] in the shown unit, without it."""
    return bare(None if value is None else value * KPA, "pressure", decimals)


def volume_of(value: float | None, decimals: int | None = None) -> str:
    """Fuel in a tank or a line [m3] with its unit, whole where it is many; empty where that is not
    known.
    """
    if value is None:
        return ""
    plain = in_unit(value, "tank_volume")
    if decimals is None:
        decimals = 0 if abs(plain) >= 10 and unit("tank_volume").word == "l" else 1
    return f"{number(plain, decimals)} {unit_of('tank_volume')}"


def celsius_shown(value: float | None) -> str:
    """A temperature of the document [degC] with its unit."""
    return shown(None if value is None else value + CELSIUS, "temperature")


def liters_bare(value: float | None) -> str:
    """What a tank holds [L] in the shown unit, without it, to one place."""
    return number(in_unit((value or 0.0) / 1000, "tank_volume"), 1)


def liters(value: float | None, decimals: int | None = None) -> str:
    """What a tank holds [L] with its unit; empty where that is not known."""
    return volume_of(None if value is None else value / 1000, decimals)


def lasting(seconds: float) -> str:
    """A length of time as it is said: seconds up to three minutes, then minutes, then hours."""
    if seconds < 180:
        return f"{number(seconds, 1 if seconds < 10 else 0)} s"
    minutes = seconds / 60
    return f"{number(minutes)} min" if minutes < 180 else f"{number(minutes / 60, 1)} h"


def stage(element: Element) -> str:
    """When a pump runs, as it may be typed."""
    if element.stage is None:
        return "always"

    def said(at: float, by: str) -> str:
        return {
            "boost": shown(at * KPA, "pressure"),
            "speed": f"{at:g} rpm",
            "duty": f"{100 * at:g} % duty",
            "switch": "switch",
        }[by]

    on, off = said(element.stage.at, element.stage.by), element.stage.off_at
    return (
        on
        if off is None or element.stage.by == "switch"
        else f"{on} off {said(off, element.stage.by)}"
    )


def inside(tank: Properties) -> str:
    """What a tank has inside and under it, in words; empty for nothing known."""
    words = [
        word
        for word, there in (
            ("baffles", tank.baffles),
            ("foam", tank.foam),
            ("valve of its own", tank.vented),
        )
        if there
    ]
    words += [
        f"{what} of {liters(holds)}"
        for what, holds in (("sump", tank.sump_l), ("pot", tank.pot_l))
        if holds
    ]
    return ", ".join(words)


# Words of the document, which are kept as they are, as the trade says them in the US.
SPELLED = {
    "carburettor": "carburetor",
    "aluminium": "aluminum",
    "merge": "Y-block",
    "split": "Y-block",
    "strainer": "pre-filter",
    "joint": "connection",
    "pot": "surge tank",
}
_SPELLED = re.compile(rf"\b(?:{'|'.join(SPELLED)})\b")


def spelled(word: str) -> str:
    """A word of the document, or the name of a place made of such words, as a page says it."""
    return _SPELLED.sub(lambda found: SPELLED[found[0]], word)


def register(app: Flask) -> None:
    """Make these known to the templates."""
    app.jinja_env.filters.update(
        bare=bare,
        shown=shown,
        signed=signed,
        plus=plus,
        number=number,
        money=money,
        more_money=more_money,
        when=when,
        dash=dash,
        ruled=ruled,
        mm_ruled=lambda mm: ruled(None if mm is None else mm / 1000),
        percent=percent,
        cc_per_minute=cc_per_minute,
        milligrams=milligrams,
        milliwatts=milliwatts,
        kg_per_liter=kg_per_liter,
        hundreds=hundreds,
        spelled=spelled,
    )
    app.jinja_env.filters.update(
        liters=liters,
        liters_bare=liters_bare,
        celsius_shown=celsius_shown,
        volume_of=volume_of,
        mm_shown=mm_shown,
        mm_bare=mm_bare,
        kpa_shown=kpa_shown,
        kpa_bare=kpa_bare,
        lasting=lasting,
        inside=inside,
        stage=stage,
        out_of_reach=out_of_reach_l,
    )
    app.jinja_env.globals.update(
        unit_of=unit_of,
        TERMS=terms(),
        finding_text=finding_text,
        fix_text=fix_text,
        fix_key=key_of,
        arranged=arranged,
        finding_counts=counts,
    )
    app.jinja_env.globals.update(reason_text=reason_text, ROLES=ROLES, CURRENCY=CURRENCY)
