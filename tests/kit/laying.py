"""Laying a build out without a page: the request that the chooser's button sends. The page itself
would size every layout meanwhile.
"""

import re
from typing import Any


class Chooser:
    """The chooser of a build as it was when it was first asked for: its choices, each laid out by
    the request of its button; the first is the one that stood then.
    """

    def __init__(self, page: Any, slug: str) -> None:
        self.page, self.slug = page, slug
        self.keys: list[str] = re.findall(
            r'id="choice-([^"]+)"', page.request.get(f"/builds/{slug}/layout").text()
        )

    def lay_out(self, choice: str) -> None:
        """Lay a choice out; the one that stood at first is left as it is."""
        assert choice in self.keys
        if choice != self.keys[0]:
            layout, _, rails = choice.partition("-")
            self._send("layout", {"layout": layout, "rails": rails, "sure": True})

    def undo(self) -> None:
        """Take the last one back."""
        self._send("undo", {})

    def _send(self, what: str, data: dict[str, Any]) -> None:
        text = self.page.request.get(f"/builds/{self.slug}/circuit").text()
        token, head = (
            re.search(r'name="csrf" content="([^"]+)"', text),
            re.search(r'data-head="(\d+)"', text),
        )
        assert token
        assert head
        sent = data | {"head": int(head[1]), "page": "circuit"}
        answer = self.page.request.post(
            f"/builds/{self.slug}/{what}",
            data=sent,
            headers={"X-CSRFToken": token[1], "Accept": "application/json"},
        )
        assert answer.ok, answer.text()
