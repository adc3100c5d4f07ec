"""An answer that takes too long, or that nobody waits for, ends; nothing of it is kept, and who asks
again gets all of it.
"""

import re
import socket
import threading
from pathlib import Path

import pytest

from tall_heron.core.base.wanted import NoLongerWanted, still_wanted
from tall_heron.web import answers, create_app, patience
from tall_heron.web.server import add_demo, bind, make_server
from tall_heron.web.stations.prove import jobs

SLOW = (
    "circuit",
    "layout",
    "cases",
    "cases/failures",
    "route",
    "swaps?part=P1&case=peak&page=circuit",
)


def shown(text: str) -> str:
    """What a page shows; a drawing's places to a thousandth of a pixel, for a solution is found from
    one that lies near.
    """
    return re.sub(r"\d+\.\d{4,}", lambda m: f"{float(m[0]):.3f}", text.partition("<body")[2])


def forgotten() -> None:
    for kept in (answers.BUILDS, answers.DESIGNS, answers.FUELS):
        for key in list(kept._things):
            kept.take(key)


@pytest.mark.parametrize("after", [0, 1, 7, 40])
def test_an_answer_that_takes_too_long_ends_in_words_and_leaves_nothing_half_made(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, after: int
) -> None:
    """Ended at its first look, and further on."""
    file = tmp_path / "demo.sqlite"
    add_demo(file)
    client = create_app(file).test_client()
    looks = 0

    class Clock:
        @staticmethod
        def monotonic() -> float:
            nonlocal looks
            looks += 1
            return 0.0 if looks <= after + 1 else patience.LONGEST_S + 1

    ended = 0
    for page in SLOW:
        forgotten()
        looks = 0
        with monkeypatch.context() as patch:
            patch.setattr(patience, "time", Clock)
            answer = client.get(f"/builds/egret/{page}")
        ended += answer.status_code == 503
        if answer.status_code == 503:
            assert (
                "This took longer than a minute and was ended. Nothing was changed" in answer.text
            )
        again = client.get(f"/builds/egret/{page}")
        forgotten()
        fresh = client.get(f"/builds/egret/{page}")
        assert again.status_code == fresh.status_code == 200
        assert shown(again.text) == shown(fresh.text), page
    assert ended >= 3


def test_work_for_somebody_who_went_away_ends(tmp_path: Path) -> None:
    app = create_app(tmp_path / "x.sqlite")
    begun, ended = threading.Event(), threading.Event()

    @app.get("/endless")
    def endless() -> str:
        begun.set()
        try:
            while True:
                still_wanted()
        except NoLongerWanted:
            ended.set()
            raise

    bound = bind("127.0.0.1", 0)
    server = make_server(app, bound)
    threading.Thread(target=server.run, daemon=True).start()
    with socket.create_connection(("127.0.0.1", bound.getsockname()[1]), timeout=20) as line:
        line.sendall(b"GET /endless HTTP/1.1\r\nHost: 127.0.0.1\r\n\r\n")
        assert begun.wait(20)
        assert not ended.is_set()
    assert ended.wait(20)
    server.maintenance(float("inf"))
    server.close()


def test_a_replay_that_nobody_looks_at_is_stopped() -> None:
    job = jobs.Job("x")
    job.report(0.1, "reading")
    assert not job.stopped
    job.looked -= jobs.LEFT_S + 1
    job.report(0.2, "reading")
    assert job.stopped
