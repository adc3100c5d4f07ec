"""Compiled templates are a convenience: damaged, or with no room to keep them, pages are shown."""

import tempfile
from pathlib import Path

import pytest

from tall_heron.web import create_app
from tall_heron.web.template_cache import template_cache


def test_pages_are_shown_with_a_damaged_cache_and_with_none(
    tmp_path: Path, demo_database: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(tempfile, "tempdir", str(tmp_path))

    def shown() -> str:
        return create_app(demo_database).test_client().get("/units").text

    page = shown()
    kept = list(tmp_path.rglob("*.cache"))
    assert len(kept) > 1
    assert template_cache() is not None
    for i, file in enumerate(kept):
        file.write_bytes(file.read_bytes()[: 9 * i])
    assert shown().count("<") == page.count("<")
    (folder,) = tmp_path.glob("_jinja2-cache-*")
    for file in folder.iterdir():
        file.unlink()
    folder.rmdir()
    folder.write_text("in the way")
    assert template_cache() is None
    assert shown().count("<") == page.count("<")
