"""A log of some entries, one a day."""

from tall_heron.core.prove.entry import AnyEntry, StoredEntry, entry_hash, entry_text, read_entry


def kept_log(*entries: AnyEntry) -> list[StoredEntry]:
    """Entries as a store would keep them."""
    kept, before = [], ""
    for i, e in enumerate(entries, start=1):
        at = f"2026-03-{i:02d}T10:00:00+00:00"
        text = entry_text(e)
        kept.append(read_entry(i, at, text, before, entry_hash(before, i, at, text)))
        before = kept[-1].sha256
    return kept
