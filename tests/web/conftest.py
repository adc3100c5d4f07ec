"""A client on a database of its own, with the demo build."""

import re
import shutil
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from flask import Flask
from flask.testing import FlaskClient
from werkzeug.test import TestResponse

from tall_heron.store import builds, db
from tall_heron.web import create_app
from tall_heron.web.server import add_demo

Post = Callable[..., Any]


@pytest.fixture(scope="session")
def demo_database(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo builds laid into a database once; each test works on a copy."""
    path = tmp_path_factory.mktemp("demo") / "demo.sqlite"
    add_demo(path)
    assert not path.with_suffix(".sqlite-wal").exists()
    return path


@pytest.fixture(scope="session")
def one_app(tmp_path_factory: pytest.TempPathFactory, demo_database: Path) -> Flask:
    """One application for all tests of a process: what it has read of templates it keeps."""
    path = tmp_path_factory.mktemp("app") / "demo.sqlite"
    shutil.copyfile(demo_database, path)
    return create_app(path)


@pytest.fixture
def app(tmp_path: Path, demo_database: Path, one_app: Flask) -> Iterator[Flask]:
    """The application on a database of this test's own."""
    path = tmp_path / "demo.sqlite"
    shutil.copyfile(demo_database, path)
    one_app.extensions["connections"].close()
    one_app.config["DATABASE"] = path
    one_app.extensions["connections"] = db.Connections(path)
    yield one_app
    one_app.extensions["connections"].close()


BLOCKS = (
    "html head body header footer main section article aside nav div p h1 h2 h3 h4 ul ol li dl dt"
    " dd table thead tbody tfoot tr td th caption form fieldset legend details summary figure"
    " figcaption dialog option select"
)
AROUND = re.compile(rf"\s*(</?(?:{BLOCKS.replace(' ', '|')})\b[^>]*>)\s*")
APART = re.compile(r"(<(?:script|textarea|pre)\b.*?</(?:script|textarea|pre)>)", re.DOTALL)


def squeezed(page: str) -> str:
    """A page as a browser reads it: how a template is broken into lines says nothing."""
    return "".join(
        piece if i % 2 else AROUND.sub(r"\1", re.sub(r"\s+", " ", piece))
        for i, piece in enumerate(APART.split(page))
    )


def squeezed_in(value: Any) -> Any:
    """Pieces of pages within an answer, each as a browser reads it."""
    if isinstance(value, str):
        return squeezed(value) if "<" in value else value
    if isinstance(value, dict):
        return {k: squeezed_in(v) for k, v in value.items()}
    return [squeezed_in(v) for v in value] if isinstance(value, list) else value


class Page(TestResponse):
    """An answer whose pages are read as a browser reads them."""

    @property
    def text(self) -> str:
        text = self.get_data(as_text=True)
        return squeezed(text) if (self.content_type or "").startswith("text/html") else text

    @property
    def json(self) -> Any:
        value = self.get_json()
        return (
            {k: squeezed_in(v) if k in ("pieces", "piece", "own") else v for k, v in value.items()}
            if isinstance(value, dict)
            else value
        )


@pytest.fixture
def client(app: Flask) -> FlaskClient:
    return FlaskClient(app, Page, use_cookies=True)


@pytest.fixture
def post(client: FlaskClient, tmp_path: Path) -> Post:
    """Send JSON as the page does, with its token and the newest revision of the build."""
    tokens: list[str] = []

    def send(path: str, **data: Any) -> Any:
        if not tokens:
            page = client.get("/units").text
            found = re.search(r'name="csrf" content="([^"]+)"', page)
            assert found
            tokens.append(found.group(1))
        with db.opened(tmp_path / "demo.sqlite") as connection:
            row = builds.find(connection, "bittern")
        assert row is not None
        body = {"head": row["head"], "page": "circuit", "part": "F2", "case": "peak"} | data
        return client.post(
            path, json=body, headers={"X-CSRFToken": tokens[0], "Accept": "application/json"}
        )

    return send


@pytest.fixture
def bench(client: FlaskClient) -> Callable[..., str]:
    """The bench once every build on it has been worked out, as a browser asks for them."""

    def whole(path: str = "/", by: FlaskClient = client) -> str:
        for slug in re.findall(r'data-waits="([^"]+)"', by.get(path).text):
            assert by.get(f"/builds/{slug}/place").status_code == 200
        return by.get(path).text

    return whole
