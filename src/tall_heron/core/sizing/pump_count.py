"""How many pumps feed the engine: more or fewer side by side, the fewest that do, with all else
sized to them.
"""

from collections.abc import Iterator, Sequence
from dataclasses import replace

from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.document.build import Build
from tall_heron.core.document.circuit import Circuit
from tall_heron.core.document.figures import PumpMap
from tall_heron.core.editing.topology import second_pump, take_out_whole
from tall_heron.core.shelf.shelf import ShelfPart
from tall_heron.core.shelf.totals import make_totals
from tall_heron.core.sizing.auto_size import By, Progress, Proposal, size
from tall_heron.core.sizing.groups import pump_groups
from tall_heron.core.sizing.on_hand import pumps_wanted
from tall_heron.core.study.cases.tank_heat import pump_current
from tall_heron.core.study.delivery import fed_by
from tall_heron.core.study.study import make_study

MOST_PUMPS = 3
PUMPS_MEND = {"spare", "solve", "P-10", "L-08"}  # what another pump can clear
AND_RAIL = PUMPS_MEND | {"rail"}  # where no regulator turns back what they give too much


def feeding_pumps(circuit: Circuit) -> list[str]:
    """The electric pumps side by side that feed the engine, none of them staged; empty where what
    feeds it is something else, or each pump has a line of its own.
    """
    pumps = fed_by(circuit).pumps
    plain = all(isinstance(p.figures, PumpMap) and p.stage is None for p in pumps)
    aside = len({p.ports["start"] for p in pumps}) == 1 and len({p.shelf for p in pumps}) == 1
    return [p.id for p in pumps] if pumps and plain and aside else []


def with_pumps(build: Build, count: int) -> Build | None:
    """The build with so many pumps side by side, checks and Ys with them; None where that cannot be
    done by adding one beside the last, or taking that out.
    """
    for _ in range(MOST_PUMPS + 1):
        pumps = feeding_pumps(build.circuit)
        if len(pumps) == count:
            return build
        if not pumps:
            return None
        try:
            build = (
                second_pump(build, pumps[-1])[0]
                if len(pumps) < count
                else take_out_whole(build, pumps[-1])
            )
        except BuildErrors:
            return None
        if len(feeding_pumps(build.circuit)) == len(pumps):
            return None
    return None


def counts_for(build: Build, keep: Sequence[str] = ()) -> list[int]:
    """Numbers of pumps to look at, the fewest first; an injected aircraft has no fewer than two.
    Only the present one where pumps are kept, or where they are no row side by side.
    """
    pumps, flies = (
        feeding_pumps(build.circuit),
        build.brief is not None and build.brief.use == "flight",
    )
    if not pumps or set(pumps) & set(keep):
        return [len(pumps)]
    if (wanted := pumps_wanted(build.wishes)) is not None:
        return [wanted]
    least = 2 if flies and build.brief is not None and not build.brief.carbureted else 1
    return list(range(least, MOST_PUMPS + 1))


def lacks(proposal: Proposal) -> tuple[int, int, int]:
    """What stands against a proposal: Stops that pumps can mend, all they can mend, then all Stops."""
    mends = PUMPS_MEND if proposal.study.tells_surplus else AND_RAIL
    levels = [x.finding.level for x in proposal.lacks if x.finding.rule in mends]
    return levels.count("Stop"), len(levels), sum(x.finding.level == "Stop" for x in proposal.lacks)


def weight(proposal: Proposal, by: By) -> float:
    """What a proposal is chosen by: price, mass, or the current of its pumps at peak [A]."""
    if by == "current":
        return pump_current(make_study(proposal.build, ("peak",)).peak)
    totals = make_totals(proposal.build.circuit)
    return totals.mass if by == "mass" else totals.price


def reaches(build: Build, kind: str = "pump", own: Sequence[ShelfPart] = ()) -> bool:
    """Whether so many of the largest pumps of a kind that suit could give what is asked, by their
    own maps.
    """
    return all(g.does for g in pump_groups(make_study(build), own) if g.kind == kind)


def size_any(
    build: Build,
    by: By = "cost",
    keep: Sequence[str] = (),
    own: Sequence[ShelfPart] = (),
    fresh: bool = False,
) -> Iterator[Progress | Proposal]:
    """As auto_size.size, over numbers of pumps from the fewest up until one leaves nothing that
    pumps can mend, and at least the present one: yields progress, and last the proposal that lacks
    least, then has fewest pumps. Raises BuildErrors where nothing is to be sized.
    """
    best: Proposal | None = None
    looked, keeping, now = (
        0,
        set(keep) & {e.id for e in build.circuit.elements},
        len(feeding_pumps(build.circuit)),
    )
    for count in counts_for(build, keep):
        start = with_pumps(build, count)
        if (
            start is None
            or not keeping <= {e.id for e in start.circuit.elements}
            or (count < MOST_PUMPS and count != now and not reaches(start, own=own))
        ):
            continue
        for report in size(start, by, keep, own, fresh):
            if isinstance(report, Progress):
                yield Progress(looked + report.looked)
                continue
            looked += report.looked
            if best is None or lacks(report) < lacks(best):
                best = report
        if best is not None and not lacks(best)[1] and (by == "cost" or count >= now):
            break
    assert best is not None
    yield replace(best, looked=looked)
