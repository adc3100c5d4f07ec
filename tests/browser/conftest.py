"""The real application in its own process, driven in Debian's Chromium under its own strict policy."""

import shutil
import sqlite3
from collections.abc import Iterator
from contextlib import closing

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, expect, sync_playwright
from running import App, run_in

expect.set_options(timeout=20000)  # a busy machine may be slow; nothing here is timed
ARGUMENTS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


@pytest.fixture(scope="session")
def served(tmp_path_factory: pytest.TempPathFactory) -> Iterator[App]:
    """One process for all tests of a worker: it takes two seconds to start."""
    for app in run_in(tmp_path_factory.mktemp("served")):
        shutil.copy(app.folder / "demo.sqlite", app.folder / "as-new.sqlite")
        yield app


@pytest.fixture
def application(served: App) -> App:
    """The application with its demo builds as new, put back through SQLite's own backup."""
    with (
        closing(sqlite3.connect(served.folder / "as-new.sqlite")) as new,
        closing(sqlite3.connect(served.folder / "demo.sqlite", timeout=20)) as live,
    ):
        new.backup(live)
        heads = "SELECT slug, head FROM build ORDER BY slug"
        assert live.execute(heads).fetchall() == new.execute(heads).fetchall()
    return served


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        opened = playwright.chromium.launch(
            executable_path=shutil.which("chromium"), args=ARGUMENTS
        )
        yield opened
        opened.close()


@pytest.fixture
def context(browser: Browser, application: App) -> Iterator[BrowserContext]:
    made = browser.new_context(
        viewport={"width": 1280, "height": 800}, base_url=application.address
    )
    made.set_default_timeout(30000)
    yield made
    made.close()


LISTENS = "!document.body || !document.body.hasAttribute('x-data') || document.body.dataset.alive === 'yes'"


def steady(page: Page) -> None:
    """Keys are pressed on a page whose scripts listen: on a busy machine it is seen before that,
    and a key is lost as a person's would be who does not look.
    """
    press, reload = page.keyboard.press, page.reload

    def listens() -> None:
        if not page.evaluate(LISTENS):
            page.wait_for_function(LISTENS)

    def pressed(key: str, **more: float) -> None:
        listens()
        press(key, **more)

    def reloaded() -> None:
        reload()
        listens()

    page.keyboard.press = pressed  # type: ignore[method-assign]
    page.reload = reloaded  # type: ignore[method-assign,assignment]


@pytest.fixture
def page(context: BrowserContext) -> Iterator[Page]:
    """A page on which any console error, page error or refused resource fails the test."""
    opened = context.new_page()
    steady(opened)
    wrong: list[str] = []
    opened.on(
        "console",
        lambda m: (
            wrong.append(m.text)
            if m.type == "error" and not any(code in m.text for code in ("422", "409"))
            else None
        ),
    )
    opened.on("pageerror", lambda e: wrong.append(str(e)))
    opened.on(
        "requestfailed",
        lambda r: wrong.append(f"{r.url} {r.failure}") if r.failure != "net::ERR_ABORTED" else None,
    )
    yield opened
    assert wrong == []
