"""The server itself: connections that say nothing, requests that never end, bodies that nobody may
send.
"""

import socket
import threading
from collections.abc import Iterator
from contextlib import ExitStack
from pathlib import Path

import pytest
from flask import Flask

from tall_heron.web import create_app, pass_phrase
from tall_heron.web.headers import HEADERS
from tall_heron.web.server import MOST_HEADER, bind, make_server, most_bytes

PHRASE = "four herons by a weir"


@pytest.fixture
def locked(tmp_path: Path) -> Flask:
    pass_phrase.keep(tmp_path, PHRASE)
    return create_app(tmp_path / "x.sqlite", ["*"], tmp_path)


@pytest.fixture
def port(locked: Flask) -> Iterator[int]:
    bound = bind("127.0.0.1", 0)
    server = make_server(locked, bound)
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    yield int(bound.getsockname()[1])
    server.maintenance(float("inf"))  # every connection is called idle
    server.close()


def asked(port: int, request: bytes) -> tuple[int, dict[str, str]]:
    """The status and heads of an answer."""
    with socket.create_connection(("127.0.0.1", port), timeout=20) as line:
        line.sendall(request)
        got = b""
        while b"\r\n\r\n" not in got:
            more = line.recv(65536)
            if not more:
                break
            got += more
    first, *rest = got.partition(b"\r\n\r\n")[0].decode("latin-1").split("\r\n")
    return int(first.split(" ")[1]), dict(x.split(": ", 1) for x in rest)


def test_idle_and_half_sent_connections_shut_nobody_out(port: int) -> None:
    """500 that say nothing, 200 that stop in the middle of a request."""
    with ExitStack() as held:
        for i in range(700):
            line = held.enter_context(socket.create_connection(("127.0.0.1", port), timeout=20))
            if i >= 500:
                line.sendall(b"POST /enter HTTP/1.1\r\nHost: x\r\nContent-Length: 9000\r\n\r\nphr")
        assert asked(port, b"GET /enter HTTP/1.1\r\nHost: x\r\n\r\n")[0] == 200


def test_a_body_is_refused_by_its_head(port: int) -> None:
    head = b"POST /enter HTTP/1.1\r\nHost: x\r\nContent-Length: 900000000\r\n\r\n"
    status, heads = asked(port, head)
    assert status == 413
    assert heads["Connection"] == "close"
    assert HEADERS.items() <= heads.items()
    chunked = b"POST /builds HTTP/1.1\r\nHost: x\r\nTransfer-Encoding: chunked\r\n\r\n"
    assert asked(port, chunked + b"4000\r\n" + b"x" * 0x4000 + b"\r\n")[0] == 413
    long = b"GET /enter HTTP/1.1\r\nHost: x\r\nX: " + b"x" * MOST_HEADER + b"\r\n\r\n"
    assert asked(port, long)[0] == 431


def test_how_much_is_read_follows_the_address_and_who_asks(locked: Flask, tmp_path: Path) -> None:
    open_ = create_app(tmp_path / "y.sqlite")
    client = locked.test_client()
    page = client.get("/enter").text
    token = page.split('name="csrf_token" value="')[1].split('"')[0]
    client.post("/enter", data={"phrase": PHRASE, "csrf_token": token})
    cookie = client.get_cookie("session")
    assert cookie is not None
    inside = f"theme=night; session={cookie.value}"
    picture, plain = "/builds/x/route/picture", "/builds/x/undo"
    assert most_bytes(locked, "POST", picture, "") == 10_000
    assert most_bytes(locked, "POST", picture, inside + "x") == 10_000
    assert (
        most_bytes(locked, "POST", plain, inside) < 6e6 < most_bytes(open_, "POST", "/backup", "")
    )
    assert most_bytes(locked, "POST", "/no such", inside) == most_bytes(
        locked, "POST", plain, inside
    )
