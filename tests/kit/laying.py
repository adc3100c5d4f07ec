"""Laying a build out without a page: the request that the chooser's button sends. The page itself would size every layout meanwhile."""

import html
import json
import re
from typing import Any


def buttons(text: str) -> dict[str, dict[str, Any]]:
    """The buttons of a chooser's page by their choice, with what they send."""
    found = {}
    for tag in re.findall(r"<button[^>]*id=\"choose-[^>]*>", text):
        data = {k: html.unescape(v) for k, v in re.findall(r'(id|data-[a-z]+)="([^"]*)"', tag)}
        found[data["id"].removeprefix("choose-")] = {"layout": data["data-layout"], "rails": data["data-rails"], "parts": json.loads(data["data-parts"])}
    return found


class Chooser:
    """The chooser of a build as it was when it was first asked for: its choices, each laid out by the request of its button."""

    def __init__(self, page: Any, slug: str) -> None:
        self.page, self.slug = page, slug
        text = page.request.get(f"/builds/{slug}/layout").text()
        self.keys: list[str] = re.findall(r'id="choice-([^"]+)"', text)
        self.buttons = buttons(text)

    def lay_out(self, choice: str) -> None:
        """Lay a choice out; the one that stood at first has no button and is left as it is."""
        if choice in self.buttons:
            self._send("layout", self.buttons[choice])
        else:
            assert choice in self.keys

    def undo(self) -> None:
        """Take the last one back."""
        self._send("undo", {})

    def _send(self, what: str, data: dict[str, Any]) -> None:
        text = self.page.request.get(f"/builds/{self.slug}/circuit").text()
        token, head = re.search(r'name="csrf" content="([^"]+)"', text), re.search(r'data-head="(\d+)"', text)
        assert token
        assert head
        sent = data | {"head": int(head[1]), "page": "circuit"}
        answer = self.page.request.post(f"/builds/{self.slug}/{what}", data=sent, headers={"X-CSRFToken": token[1], "Accept": "application/json"})
        assert answer.ok, answer.text()
