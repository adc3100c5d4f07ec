"""What every view needs: a build by its name, saving an act on it, and the pieces of the page that
changed.
"""

import json
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, NoReturn

from flask import Response, abort, g, request

from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.base.lru_cache import LruCache
from tall_heron.core.design import Design, design
from tall_heron.core.document.build import Build, dump, load
from tall_heron.core.document.merge import meet, touched
from tall_heron.core.editing.drawn import followed, laid_alike
from tall_heron.core.shelf.own_part import bought_from, on_shelf
from tall_heron.core.shelf.shelf import ShelfPart
from tall_heron.core.shelf.supplier import Market, Stocked, Supplier, read_stock
from tall_heron.core.sizing.other_fuels import OnFuel, make_fuel_rows, priced
from tall_heron.core.study.what_if import WhatIf
from tall_heron.store import builds, own_parts, suppliers
from tall_heron.store.db import digest
from tall_heron.web.forms.reading import Refused, sentence


def overtaken(row: Any, field: str) -> Refused:
    """A change made on a revision that no longer stands: what was done meanwhile, and the revision
    to make it on instead.
    """
    words = f"This build was changed elsewhere meanwhile ({row['act']}). What you typed is still here; apply it on top, or load the page again to see."
    return Refused(field, words, 409, row["head"])


BUILDS, DESIGNS = (
    LruCache[Build](24),
    LruCache[Design](10),
)  # by the hash of their document: a page that asks again finds them made
FUELS = LruCache[tuple[WhatIf, list[OnFuel]]](
    4
)  # by the engine they were asked of, which is kept beside them


MOST_TRIES = 5  # to keep a change while others keep theirs
MOST_NUMBER = (
    2**53
)  # in a request: beyond it neither a browser nor the store can tell one number from the next

Made = tuple[Build, str]  # a build that somebody changed, and what the change is called
Act = Callable[[Build, dict[str, Any]], Made]


@dataclass(frozen=True)
class Stored:
    """A build as stored: its row and its document; and the hash of the one it was changed from just
    now.
    """

    row: Any
    build: Build
    was: str = ""


def stored(slug: str) -> Stored:
    """The build of a slug at its head; 404 where there is none."""
    row = builds.find(g.connection, slug)
    if row is None:
        abort(404)
    try:
        build = build_of(row)
    except builds.Altered as altered:
        untrusted(altered)
    except BuildErrors as errors:
        abort(
            409,
            f"This build cannot be read: {'; '.join(str(e) for e in errors.errors[:3])}. Take its file, mend it and open it again.",
        )
    if build.brief is None:
        abort(
            409,
            "This build is a circuit without a brief. Solve it on the command line, or add a brief to its file and open it again.",
        )
    return Stored(row, build)


def untrusted(altered: builds.Altered) -> NoReturn:
    """409: a document is not what was stored."""
    abort(409, f"This build cannot be trusted: {altered}.")


def duplicated(found: Stored, name: str) -> str:
    """Another build like one under another name, without its log; its slug."""
    made = found.build.model_copy(update={"name": name})
    return builds.create(
        g.connection, name, dump(made), f"Variant of {found.build.name}", found.row["head"]
    )


def build_of(row: Any) -> Build:
    """The build of a row of the store. Raises builds.Altered; BuildErrors."""
    document = builds.document_of(
        row
    )  # each time: a build that is kept in memory says nothing of what is on the disk
    return BUILDS.get(row["sha256"], lambda: load(document))


def designed(found: Stored) -> Design:
    """What a build comes to: made once for a document, near the one it was changed from. A request
    has it for itself until it ends.
    """
    lent: dict[str, Design] = g.setdefault("lent", {})
    key = found.row["sha256"]
    if key not in lent:
        before = DESIGNS.take(found.was) if found.was else None
        if before is not None:
            lent[found.was] = before
        lent[key] = DESIGNS.take(key) or design(found.build, before)
    return lent[key]


def on_fuels(found: Stored) -> list[OnFuel]:
    """What the same parts would make on every fuel, at the build's prices: solved once for a brief
    and a circuit.
    """
    study = designed(found).study
    rows = FUELS.get(
        id(study.what_if), lambda: (study.what_if, make_fuel_rows(found.build, study.what_if))
    )[1]
    return priced(rows, found.build)


def give_back() -> None:
    """Keep what this request has used, for the next."""
    for key, made in g.pop("lent", {}).items():
        DESIGNS.put(key, made)


def own_shelf() -> list[ShelfPart]:
    """The builder's own parts, the newest first."""
    return [on_shelf(row["name"], row["document"]) for row in own_parts.every(g.connection)]


def market() -> Market:
    """Whom the builder buys from, with the lists they sent and what he buys from each; read once a
    request.
    """
    if "market" not in g:
        rows = suppliers.every(g.connection)
        lists = {
            row["name"]: listed
            for row in rows
            if row["listed"] and (listed := _listed(row["listed"]))
        }
        parts = {row["name"]: bought_from(row["document"]) for row in own_parts.every(g.connection)}
        g.market = Market(
            tuple(Supplier.model_validate_json(row["document"]) for row in rows),
            lists,
            {name: s for name, s in parts.items() if s},
        )
    return g.market


def _listed(text: str) -> tuple[Stocked, ...]:
    """A stored list; nothing of one that is read more strictly now than when it came."""
    try:
        return read_stock(text)
    except ValueError:
        return ()


def marks() -> dict[str, str]:
    """The pieces that a page asking to look says it has: `name=mark` in a header, apart by commas."""
    pairs = [x.partition("=") for x in request.headers.get("X-Have", "").split(",")]
    return {name.strip(): mark for name, _, mark in pairs if mark}


def body() -> dict[str, Any]:
    """The request's JSON object; 400 in plain words where there is none, or one that no page would
    send.
    """
    try:
        data = request.get_json(silent=True)
    except (RecursionError, ValueError):  # nested without end, or a number of thousands of digits
        data = None
    if not isinstance(data, dict):
        raise Refused("", "The request holds no JSON object.", 400)
    for name, value in data.items():
        if isinstance(value, int | float) and not abs(value) < MOST_NUMBER:
            raise Refused(name, "That number is too large.", 400)
        if isinstance(value, str) and any("\ud800" <= c <= "\udfff" for c in value):
            raise Refused(
                name, "That text holds half a letter, which nothing can keep. Type it again.", 400
            )
    return data


def file(content: str | bytes, kind: str, name: str) -> Response:
    """A file to keep, of a media type, by its name."""
    return Response(
        content, mimetype=kind, headers={"Content-Disposition": f"attachment; filename={name}"}
    )


def named_by(path: str) -> str:
    """The field that an error's place in the document begins with; `act` where it has none."""
    return path.strip("/").split("/")[0] or "act"


def made_by(
    acts: dict[str, Act],
    build: Build,
    data: dict[str, Any],
    unknown: str = "That is not done here.",
    field: Callable[[str], str] = named_by,
) -> Made:
    """The act that a request names, made. Refused with `unknown` where there is none of that name,
    and beside its field where it cannot be done.
    """
    act = acts.get(str(data.get("act") or ""))
    if act is None:
        raise Refused("act", unknown)
    try:
        return act(build, data)
    except BuildErrors as errors:
        first = errors.errors[0]
        raise Refused(field(first.field), sentence(first.message)) from None


def act(
    slug: str,
    data: dict[str, Any],
    change: Callable[[Build], tuple[Build, str]],
    field: str,
    fresh: bool = False,
) -> Stored:
    """Make one change and keep it as a revision on the head: on the revision the page shows, or on
    top of what others did meanwhile where both touched nothing in common; `fresh` where all that it
    has still came from its line. Refused where the change or its ground is not sound.
    """
    for _ in range(MOST_TRIES):
        found = stored(slug)
        on = data.get("head")
        if on != found.row["head"] and not _apart(found, on, change, field):
            raise overtaken(found.row, field)
        build, name, document = _made(found.build, change, field)
        if document == dump(found.build):
            return Stored(found.row, found.build, found.row["sha256"])
        try:
            builds.save(g.connection, found.row["id"], found.row["head"], name, document, fresh)
        except builds.ChangedElsewhere:
            continue  # somebody was quicker: look again whether both can stand
        BUILDS.put(digest(document), build)
        now = stored(slug)  # read again with its own build: somebody else may have saved since
        return Stored(now.row, now.build, found.row["sha256"])
    raise overtaken(builds.find(g.connection, slug), field)


def _made(
    build: Build, change: Callable[[Build], tuple[Build, str]], field: str
) -> tuple[Build, str, str]:
    """A build changed, what the change is called, and its document. Refused beside the field."""
    try:
        new, name = change(build)
        if (
            new.brief is not None
            and not laid_alike(build, new)
            and (new.space.routes or new.space.places)
        ):
            new = followed(
                new
            )  # another hose has other ends and bends: lengths stay those of the drawing
        document = dump(new)
        return load(document), name, document
    except BuildErrors as errors:
        raise Refused(field, "; ".join(e.message for e in errors.errors)) from None


def _apart(
    found: Stored, on: Any, change: Callable[[Build], tuple[Build, str]], field: str
) -> bool:
    """Whether a change made on an older revision of a build touches nothing that was changed since."""
    row = builds.revision(g.connection, on) if isinstance(on, int) else None
    if row is None or row["build"] != found.row["id"]:
        return False
    try:
        mine = _made(load(row["document"]), change, field)[2]
    except (BuildErrors, Refused):
        return False
    before, mine, theirs = (json.loads(x) for x in (row["document"], mine, found.row["document"]))
    return not meet(touched(before, mine), touched(before, theirs))
