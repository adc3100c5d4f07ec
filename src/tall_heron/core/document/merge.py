"""Whether two changes made on one revision of a build touch the same: what each touched, by its
place in the document.
"""

from collections.abc import Iterator
from typing import Any

from tall_heron.core.document.record import FOLLOWS

Place = tuple[str, ...]
KEYS = (
    ("id",),
    ("rule", "element_id"),
    ("part",),
    ("side",),
    ("name",),
    ("text",),
)  # by what the entries of a list are told apart
FOLLOWING = ("reach_mm", "bends_loss_coefficient")  # figures that always do


def touched(before: Any, after: Any) -> set[Place]:
    """The places at which two documents differ, as deep as they can be told apart; what follows
    from the drawing, or is assumed, left out.
    """
    return set(_differ(before, after, ()))


def meet(mine: set[Place], theirs: set[Place]) -> bool:
    """Whether something was touched by both: the same place, or one within another."""
    return any(a[: len(b)] == b or b[: len(a)] == a for a in mine for b in theirs)


def _differ(before: Any, after: Any, at: Place) -> Iterator[Place]:
    if before == after or (at and at[-1] in FOLLOWING):
        return
    if isinstance(before, dict) and isinstance(after, dict):
        if _follows(before) and _follows(after):
            return
        for key in before.keys() | after.keys():
            if not _is_clocking(key, before, after):
                yield from _differ(before.get(key), after.get(key), (*at, key))
    elif (
        isinstance(before, list)
        and isinstance(after, list)
        and (keyed := _keyed(before, after)) is not None
    ):
        for key in keyed[0].keys() | keyed[1].keys():
            yield from _differ(keyed[0].get(key), keyed[1].get(key), (*at, key))
    else:
        yield at


def _follows(record: dict[str, Any]) -> bool:
    """Whether a length or the height and place of a node follows from others."""
    return (
        record.get("source") in FOLLOWS and record.get("place_source", record["source"]) in FOLLOWS
    )


def _is_clocking(key: str, before: dict[str, Any], after: dict[str, Any]) -> bool:
    return key in ("clock_deg", "clock_source") and all(
        x.get("clock_source") in FOLLOWS for x in (before, after)
    )


def _keyed(before: list[Any], after: list[Any]) -> tuple[dict[str, Any], dict[str, Any]] | None:
    """Two lists by what their entries are told apart by; None where nothing does."""
    rows = [*before, *after]
    if not rows or not all(isinstance(x, dict) for x in rows):
        return None
    for names in KEYS:
        if all(n in x for x in rows for n in names):
            by_key = tuple(
                {" ".join(str(x[n]) for n in names): x for x in side} for side in (before, after)
            )
            if len(by_key[0]) == len(before) and len(by_key[1]) == len(after):
                return by_key[0], by_key[1]
    return None
