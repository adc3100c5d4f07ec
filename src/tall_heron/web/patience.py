"""How long an answer may take, and whether whoever asked still waits: work for somebody who went
away ends, and so does what would hold a thread for good.
"""

import time
from typing import Any

from flask import Flask, Response, request

from tall_heron.core.base import wanted
from tall_heron.web.page_answer import in_words

LONGEST_S = 60.0  # twenty times the longest answer of a large build
GONE, LATE = "Nobody waits for this any more.", "This took longer than a minute and was ended."


def guard(app: Flask) -> None:
    """Every request asks while it is worked on."""
    app.before_request(_begin)
    app.teardown_request(_end)
    app.register_error_handler(wanted.NoLongerWanted, _ended)


def _begin() -> None:
    until = time.monotonic() + LONGEST_S
    here: Any = request.environ.get("waitress.client_disconnected")
    gone = here if request.method == "GET" else None  # a change is made to its end

    def why_not() -> str:
        if time.monotonic() > until:
            return LATE
        return GONE if gone is not None and gone() else ""

    wanted.ask(why_not)


def _end(_: BaseException | None) -> None:
    wanted.ask(None)


def _ended(error: wanted.NoLongerWanted) -> tuple[Response | str, int]:
    words = f"{error} Nothing was changed. The build asks for more than can be worked out here: take out what it need not hold, or ask again when less is going on."
    return in_words(words, 503)
