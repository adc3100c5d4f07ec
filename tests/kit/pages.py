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


def variant(page: Page, slug: str) -> str:
    """A variant of a build that is signed, to be changed; its slug."""
    text = page.request.get(f"/builds/{slug}/history").text()
    token = re.search(r'name="csrf_token" value="([^"]+)"', text)
    assert token
    made = page.request.post(
        f"/builds/{slug}/variant", form={"csrf_token": token[1], "name": f"{slug} to change"}
    )
    assert made.ok, made.status
    return made.url.split("/builds/")[1].split("/")[0]
