"""What screws onto what: pairs that only look as if they joined, joints that nothing on the shelf
makes, ends that meet nothing, injectors and rails that do not fit.
"""

from collections import Counter
from collections.abc import Iterator

from tall_heron.core.base.catalogue import by_name
from tall_heron.core.joining.joints import Joint, Joints, joints_of
from tall_heron.core.rules.finding import Finding, Level
from tall_heron.core.rules.rule import Rule, always, has
from tall_heron.core.sheets.fits import make_injector_sheets, make_rail_sheets
from tall_heron.core.sheets.plate import make_plate
from tall_heron.core.shelf.shelf import parts
from tall_heron.core.shelf.supplier import stand_in
from tall_heron.core.study.derived import derived
from tall_heron.core.study.study import Study


@derived("hydraulics", "titles", "shop")
def joints_in(study: Study) -> Joints:
    """A study's joints, found once."""
    return joints_of(study.build)


def _finding(j: Joint, level: Level, title: str, why: str, do: str) -> Finding:
    """A finding at a joint, on its line where it has one. What rests on a port that nobody looked
    at is never more than a Check.
    """
    if level == "Stop" and (j.one.assumed or j.other.assumed):
        level, why = "Check", f"{why} One of the two ports is assumed: look at it."
    return Finding(level, j.lines[0] if j.lines else j.one.element, title, why, do, station="hoses")


def _pair(j: Joint) -> str:
    return f"{j.one.element} ({j.one.face.words}) and {j.other.element} ({j.other.face.words})"


def must_not_join(study: Study) -> Iterator[Finding]:
    """Two ports that go together and do not hold or seal, and nothing on the shelf stands between."""
    for j in joints_in(study).joints:
        if j.how.state == "refused":
            yield _finding(j, "Stop", f"{_pair(j)} must not be joined", j.how.why, j.how.do)


def nothing_between(study: Study) -> Iterator[Finding]:
    """No adapter joins them."""
    for j in joints_in(study).joints:
        if j.how.state == "none":
            yield _finding(j, "Check", f"Nothing joins {_pair(j)}", j.how.why, j.how.do)


def picked_no_more(study: Study) -> Iterator[Finding]:
    """An adapter that was chosen for other ends."""
    for j in joints_in(study).joints:
        if j.broken:
            yield _finding(
                j,
                "Check",
                f"The adapter chosen at {j.one.element} and {j.other.element} no longer fits",
                "An end or a part there was changed since; the list holds the automatic choice.",
                "Choose again under Connections.",
            )


def looks_alike(study: Study) -> Iterator[Finding]:
    """An adapter stands between a 37 and a 45 degree flare of one thread, which would also go
    together without it.
    """
    for j in joints_in(study).joints:
        if (
            j.how.state == "adapter"
            and j.how.why
            and j.one.face.thread == j.other.face.thread
            and "45" in f"{j.one.face.sort} {j.other.face.sort}"
        ):
            yield _finding(
                j,
                "Note",
                f"{_pair(j)} go together without their adapter, and must not",
                j.how.why,
                f"{j.how.do} The buy list holds it.",
            )


def left_over(study: Study) -> Iterator[Finding]:
    """A line's end that meets nothing."""
    for side in joints_in(study).alone:
        yield Finding(
            "Check",
            side.element,
            f"End {side.port.upper()} of {side.element} meets nothing",
            "Fuel runs out of an open end as soon as a pump runs.",
            "Route it to a part, or take it out.",
            station="hoses",
        )


def not_in_stock(study: Study) -> Iterator[Finding]:
    """What is needed more often than its supplier has it: the job waits for the last one."""
    joints = joints_in(study).joints
    wanted = Counter(p.name for j in joints if j.how.state == "adapter" for p in j.pieces)
    wanted += Counter(e.shelf for e in study.build.circuit.elements if e.shelf)
    wanted += Counter(
        x.shelf
        for e in study.build.circuit.elements
        for x in (e.end_a, e.end_b)
        if x is not None and x.shelf
    )
    for name in by_name("stock", "item"):
        has_them = stand_in(name, "")
        if (
            name not in study.build.shop.suppliers
            and has_them.stock is not None
            and wanted.get(name, 0) > has_them.stock
        ):
            at = next(
                (
                    j.lines[0] if j.lines else j.one.element
                    for j in joints
                    if any(p.name == name for p in j.pieces)
                ),
                "",
            )
            at = at or next(
                (
                    e.id
                    for e in study.build.circuit.elements
                    if name in (e.shelf, *(x.shelf for x in (e.end_a, e.end_b) if x is not None))
                ),
                "",
            )
            part = parts().get(name)
            title = f"{wanted[name]} of {part.title if part is not None else name} are needed, and {has_them.stock or 'none'} in stock"
            yield Finding(
                "Note",
                at,
                title,
                f"The rest takes {has_them.days} days.",
                "Order it first, or choose another under Connections.",
                station="hoses",
            )


def plate_does_not_fit(study: Study) -> Iterator[Finding]:
    """A hole pattern is a promise in metal: parts that overlap, holes too near an edge."""
    sheet = make_plate(study.build) if study.build.shop.plate is not None else None
    if sheet is not None and sheet.troubles:
        at = sheet.lying[0].element.id if sheet.lying else ""
        title, why = (
            f"The plate cannot be drilled as laid out: {sheet.troubles[0]}",
            "Metal that is drilled is not filled again.",
        )
        yield Finding(
            "Check",
            at,
            title,
            why,
            "Move what is in the way, or take a larger plate.",
            station="hoses",
        )


def injectors_do_not_fit(study: Study) -> Iterator[Finding]:
    """Bodies, pockets and plugs against what was measured."""
    for sheet in make_injector_sheets(study.build):
        for wrong in sheet.wrong:
            yield Finding(
                "Check",
                sheet.element.id,
                f"{sheet.element.id} do not fit: {wrong}",
                "An injector under strain leaks at its O-ring or cracks its body; one that floats leaks when the rail lifts.",
                sheet.says,
                station="hoses",
            )


def rail_left_thin(study: Study) -> Iterator[Finding]:
    """What is left of a rail that is drilled for a port."""
    if (
        study.build.shop.rail.across_mm is None
        and study.build.shop.rail.port is None
        and study.build.shop.rail.deep_mm is None
    ):
        return
    for sheet in make_rail_sheets(study.build):
        for wrong in sheet.wrong:
            yield Finding(
                "Stop",
                sheet.element.id,
                f"{sheet.element.id} cannot take a {sheet.port.words}: {wrong}",
                "A thread with too little metal beside it or under it splits the rail, over a hot engine.",
                "Choose a smaller port, a wider rail, or have it welded and machined.",
                station="hoses",
            )


RULES = (
    Rule(
        "J-01",
        "Ports that meet are made for one another, or an adapter stands between.",
        "SAE J514, J512, J1926, J2044, ASME B1.20.1, from memory; common practice",
        must_not_join,
        always,
    ),
    Rule("J-02", "The shelf joins every pair of ports.", "the shelf", nothing_between, always),
    Rule("J-03", "Adapters that were chosen still fit.", "arithmetic", picked_no_more, always),
    Rule(
        "J-04",
        "No two ports could be put together by mistake.",
        "SAE J514, J512, J1926, from memory",
        looks_alike,
        always,
    ),
    Rule("J-05", "No line ends in the open.", "arithmetic", left_over, always),
    Rule("J-08", "Everything needed is in stock.", "the built-in suppliers", not_in_stock, always),
    Rule(
        "J-09",
        "A plate's parts and holes keep apart.",
        "common practice",
        plate_does_not_fit,
        lambda s: s.build.shop.plate is not None,
    ),
    Rule(
        "J-06",
        "Injectors fit between rail and manifold, as measured.",
        "common practice",
        injectors_do_not_fit,
        has("injectors"),
    ),
    Rule(
        "J-07",
        "A rail that is drilled keeps enough metal.",
        "SAE J1926, from memory; common practice",
        rail_left_thin,
        has("rail"),
    ),
)
