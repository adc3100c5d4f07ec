"""All pages of a running application as its visitors read them: every page that links lead to, once
for each sort of question it is asked, as pieces of visible text.
"""

import html
import json
import re
from collections.abc import Iterator

from flask.testing import FlaskClient

HIDDEN = re.compile(r"<script.*?</script>|<style.*?</style>", re.DOTALL)
SPOKEN = re.compile(r'(?:placeholder|aria-label|title|content)="([^"]*)"[^>]*>')
WITHIN = re.compile(r"</?(?:b|small|span|a|kbd|sub|sup|em|strong|tspan)\b[^>]*>")
ASKED = re.compile(
    r"(part|case|hose|line|pump|walk|pick|fill|try|paper|rule|view|from|to|at|q)=[^&]*"
)
APART = ("/static", "/enter", "/backup.zip")


def charted(page: str) -> list[str]:
    """The words of a page's charts: texts in the figures that its scripts draw."""
    out: list[str] = []

    def walk(value: object) -> None:
        if isinstance(value, str):
            out.append(value)
        elif isinstance(value, list):
            for x in value:
                walk(x)
        elif isinstance(value, dict):
            for x in value.values():
                walk(x)

    for data in re.findall(r'<script type="application/json"[^>]*>(.*?)</script>', page, re.DOTALL):
        walk(json.loads(data))
    return out


def visible(page: str) -> list[str]:
    """The texts of a page, those of its labels and tips too, each element's words in one piece."""
    drawn = charted(page)
    page = SPOKEN.sub(r">\n\1\n", HIDDEN.sub(" ", page))
    found = (
        re.sub(r"\s+", " ", html.unescape(t)).strip()
        for t in re.split(r"<[^>]*>|\n", WITHIN.sub(" ", page))
    )
    return [*(t for t in found if t), *drawn]


def walked(
    client: FlaskClient, starts: list[str], within: str, most: int = 400
) -> Iterator[tuple[str, list[str]]]:
    """Pages that can be reached under an address, each with its texts."""
    seen, todo = set(), list(starts)
    while todo and len(seen) < most:
        here = todo.pop()
        kind = ASKED.sub(r"\1", here)
        if kind in seen:
            continue
        seen.add(kind)
        answer = client.get(here)
        if answer.status_code != 200 or "text/html" not in answer.content_type:
            continue
        yield here, visible(answer.text)
        todo += [
            html.unescape(h)
            for h in re.findall(r'href="(/[^"#]*)"', answer.text)
            if h.startswith(within) and not h.startswith(APART)
        ]
