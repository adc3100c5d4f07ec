"""What browser tests ask of a page again and again."""

import re
from typing import Any

from playwright.sync_api import Page


def saved(page: Page, *ends: str) -> Any:
    """Until a change is answered that was sent to an address with one of these ends."""
    return page.expect_response(lambda r: r.request.method == "POST" and r.url.endswith(ends))


def figure(text: str | None) -> float:
    """The first number in a text."""
    found = re.search(r"[\d,.]+", text or "")
    assert found
    return float(found[0].replace(",", ""))
