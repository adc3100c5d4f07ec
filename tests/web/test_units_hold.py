"""Units that are chosen hold on every page: with US units no page speaks of liters, millimeters,
kilopascals or degrees Celsius, arithmetic and the names of parts apart.
"""

import html
import re

import pytest
from flask.testing import FlaskClient
from pages_text import visible

from tall_heron.core.shelf.shelf import parts

US = "volume_flow=gph&length=in&temperature=f&volume=ci&mass=lb&tank_volume=usgal"
METRIC = re.compile(r"(?<![\w/.])\d[\d,.]* ?(?:L/h|L|mm|kPa|°C|kg)(?![\w/²³])")
NAMES = sorted({p.title for p in parts().values()}, key=len, reverse=True)
# What is so on purpose: arithmetic, names of parts, what a builder typed himself, examples, scales
# of paper, both units side by side.
APART = re.compile(r"<details class=\"why.*?</details>|<p class=\"source\".*?</p>", re.DOTALL)
BOTH = re.compile(r"[\d,.]+ (?:°C|m|kPa|mm) \([\d,.]+ (?:°F|ft|psi|in)\)")
TYPED = re.compile(
    r"across|still reach|Estate wagon|Hill-climb|Sandpiper|turbo|4 bar|such as|blade|lug|clip|grommet|on paper"
)
PAGES = ("cases", "cases/heat", "cases/run", "route?line=H3", "hoses", "hoses/joints", "prove/log", "prove/upkeep", "wiring/supply", "layout")  # fmt: skip


@pytest.mark.parametrize("page", PAGES)
def test_us_units_hold(client: FlaskClient, page: str) -> None:
    client.set_cookie("units", US)
    text = html.unescape(
        APART.sub(" ", client.get(f"/builds/bittern/{page}").get_data(as_text=True))
    )
    for name in NAMES:
        text = text.replace(name, "part")
    found = [
        t[:120]
        for t in visible(BOTH.sub(" ", text))
        if METRIC.search(t) and not TYPED.search(t) and "=" not in t
    ]
    assert not found, found
