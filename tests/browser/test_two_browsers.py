"""Two people at their own browsers on one build: what they do on different hoses is merged, the
same field is told, each sees the other's change, and nothing that was kept is lost.
"""

import random
import re
import time
from collections.abc import Iterator

import pytest
from pages import saved
from playwright.sync_api import Browser, Page, expect
from running import App

HOSES = ("H1", "H2", "H3", "H4", "H5", "H6")
SEEN_WITHIN_S = 2.0  # on a machine that does nothing else; asked for in the sweep


@pytest.fixture
def two(browser: Browser, application: App) -> Iterator[list[Page]]:
    contexts = [
        browser.new_context(viewport={"width": 1280, "height": 800}, base_url=application.address)
        for _ in range(2)
    ]
    pages = [c.new_page() for c in contexts]
    for p in pages:
        p.goto("/builds/bittern/hoses?hose=H1")
        expect(p.locator("body")).to_have_attribute("data-alive", "yes")
    yield pages
    for c in contexts:
        c.close()


def choose(page: Page, hose: str) -> None:
    page.locator(f"#hose-{hose}").click()
    expect(page.locator("#hose-card h2")).to_contain_text(hose)


def tape(page: Page, mm: int) -> int:
    """Type a length measured with a tape; gives back how it was answered."""
    page.locator("#hose-measured").fill(f"{mm} mm")
    with saved(page, "/act") as answer:
        page.locator("#hose-measured").press("Enter")
    return int(answer.value.status)


def cut(page: Page, hose: str, *known: str) -> str:
    """What a hose is cut to, once the page shows another than what was known."""
    row = page.locator(f"#hose-{hose} .cut-mm")
    expect(row).to_have_text(re.compile(rf"^(?!(?:{'|'.join(map(re.escape, known)) or '-'})$)"))
    return row.inner_text()


@pytest.mark.parametrize("acts", [8, pytest.param(400, marks=pytest.mark.sweep)])
def test_two_browsers_at_random(two: list[Page], application: App, acts: int) -> None:
    """Alternately and at once. A length that was taken shows in both; one refused is offered to be
    applied on top, and then stands.
    """
    rnd = random.Random(acts)
    stands: dict[str, str] = {}
    slowest, on_top = 0.0, 0
    for _ in range(acts // 2):
        mine, others = rnd.sample(two, 2)
        one, other = rnd.choice(HOSES), rnd.choice(HOSES)
        choose(mine, one)
        choose(others, other)
        was = cut(others, other)
        others.locator("#hose-measured").fill(
            f"{rnd.randrange(400, 2400)} mm"
        )  # in the middle of typing when the other keeps
        before = cut(mine, one)
        assert tape(mine, rnd.randrange(400, 2400)) == 200
        stands[one] = cut(mine, one, before)
        with saved(others, "/act") as answer:
            others.locator("#hose-measured").press("Enter")
        if one == other:
            assert answer.value.status == 409
            with saved(others, "/act") as again:
                others.get_by_role("button", name="Apply on top").click()
            assert again.value.status == 200
            on_top += 1
        else:
            assert answer.value.status == 200, "different hoses never refuse one another"
        stands[other] = cut(others, other, was, *[stands[one]] * (one == other))
        began = time.monotonic()
        for hose, mm in stands.items():
            expect(mine.locator(f"#hose-{hose} .cut-mm")).to_have_text(mm)
            expect(others.locator(f"#hose-{hose} .cut-mm")).to_have_text(mm)
        slowest = max(slowest, time.monotonic() - began)
    assert on_top
    if acts > 100:
        assert slowest < SEEN_WITHIN_S + 1.0, slowest  # and what the checks themselves take
    fresh = two[0]
    fresh.goto("/builds/bittern/hoses?hose=H1")
    assert {h: cut(fresh, h) for h in stands} == stands
