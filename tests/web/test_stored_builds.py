"""Documents of earlier days: the demo database of commit 76fb988, in which builds were edited,
split, accepted and started from a line, with an own part.
"""

import json
import shutil
from pathlib import Path

import pytest
from flask.testing import FlaskClient

from tall_heron.core.document.build import dump, load
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.shelf.own_part import on_shelf
from tall_heron.store import builds, db, own_parts
from tall_heron.web import create_app

STORED = Path(__file__).parents[1] / "kit/stored"


@pytest.fixture
def old(tmp_path: Path) -> Path:
    return Path(shutil.copy(STORED / "demo-76fb988.sqlite", tmp_path / "demo.sqlite"))


def test_every_revision_opens_and_is_the_same_again(old: Path) -> None:
    """Each stored document reads, says today's format, and reads again as itself; figures keep the
    text they were typed as.
    """
    with db.opened(old) as connection:
        documents = [row["document"] for row in connection.execute("SELECT document FROM revision")]
        assert len(documents) == 19
        for text in documents:
            build = load(text)
            assert '"format": "tall-heron-build/3"' in dump(build)
            assert dump(load(dump(build))) == dump(build)
            before = json.loads(text)
            assert [e["part"]["law"] for e in before["circuit"]["elements"]] == [
                e.figures.law for e in build.circuit.elements
            ]
            assert [a["part"] for a in before.get("accepted", [])] == [
                a.element_id for a in build.accepted
            ]
        own = [on_shelf(row["name"], row["document"]) for row in own_parts.every(connection)]
        assert [(p.title, p.properties.micron) for p in own] == [("Own mesh", 10.0)]


def test_what_was_drawn_says_in_which_vehicle() -> None:
    """In tall-heron-build/2 it did not: with no dimension of the vehicle typed it was a stock
    outline, else one that was measured; nothing else is another.
    """
    build = next(
        b
        for b in demo_builds().values()
        if any(e.length is not None and e.length.source == "route" for e in b.circuit.elements)
    )
    now = json.loads(dump(build))
    for dimensions, source in (({}, "outline"), ({"wheelbase": 2700.0}, "route")):
        before = json.loads(dump(build)) | {"format": "tall-heron-build/2"}
        before["space"]["dimensions"] = dimensions
        after = json.loads(dump(load(json.dumps(before))))
        for old_part, part in zip(
            now["circuit"]["elements"], after["circuit"]["elements"], strict=True
        ):
            said = (old_part.get("length") or {}).get("source")
            assert (part.get("length") or {}).get("source") == (source if said == "route" else said)
        strip = lambda d: json.dumps(d).replace('"outline"', '"route"')  # noqa: E731
        assert strip(after["circuit"]) == strip(now["circuit"])


def test_a_text_stays_with_what_it_describes(old: Path) -> None:
    """H3 was typed as 4 m and then split into halves of 2 m: the text is not kept beside 2,000 mm;
    a build from before the split keeps it.
    """
    with db.opened(old) as connection:
        acts = {
            row["act"]: load(row["document"])
            for row in connection.execute("SELECT act, document FROM revision")
        }
        split = next(b for act, b in acts.items() if act.startswith("H3 split"))
        whole = next(b for act, b in acts.items() if act == "H3: 4 m face to face")
        assert whole.circuit.element("H3").length.typed == "4 m"  # type: ignore[union-attr]
        assert (
            split.circuit.element("H3").length.mm,
            split.circuit.element("H3").length.typed,
        ) == (2000, None)  # type: ignore[union-attr]
        assert not any("length" in pointer for pointer in split.typed)


def test_every_page_of_the_old_builds_opens(old: Path) -> None:
    app = create_app(old)
    client: FlaskClient = app.test_client()
    with db.opened(old) as connection:
        slugs = [row["slug"] for row in builds.every(connection)]
    assert len(slugs) == 9
    assert client.get("/").status_code == 200
    for i, slug in enumerate(slugs):
        for page in (
            ("brief", "circuit", "hoses", "history", "sheet") if i % 3 == 0 else ("circuit",)
        ):
            assert client.get(f"/builds/{slug}/{page}").status_code == 200, (slug, page)
    app.extensions["connections"].close()
