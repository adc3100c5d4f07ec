"""A client on a database of its own, with the demo build."""

import re
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from flask import Flask
from flask.testing import FlaskClient

from tall_heron.web import create_app
from tall_heron.web.server import add_demo

Post = Callable[..., Any]


@pytest.fixture
def app(tmp_path: Path) -> Iterator[Flask]:
    add_demo(tmp_path / "demo.sqlite")
    made = create_app(tmp_path / "demo.sqlite")
    yield made
    made.extensions["connections"].close()


@pytest.fixture
def client(app: Flask) -> FlaskClient:
    return app.test_client()


@pytest.fixture
def post(client: FlaskClient) -> Post:
    """Send JSON as the page does, with its token and the revision it shows."""

    def send(path: str, **data: Any) -> Any:
        page = client.get("/builds/bittern/history", headers={"Accept": "application/json"}).text  # so that the rules of the cases are not asked as well
        token = re.search(r'name="csrf" content="([^"]+)"', page)
        head = re.search(r'data-head="(\d+)"', page)
        assert token
        assert head
        body = {"head": int(head.group(1)), "page": "circuit", "part": "F2", "case": "peak"} | data
        return client.post(path, json=body, headers={"X-CSRFToken": token.group(1), "Accept": "application/json"})

    return send
