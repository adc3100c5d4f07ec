"""Acts on the wiring."""

from functools import partial
from typing import Any

from tall_heron.core.base.catalogue import table
from tall_heron.core.document.build import Build
from tall_heron.core.document.wiring import Wiring
from tall_heron.core.editing.fields import set_stage
from tall_heron.core.editing.wiring import set_branch, set_relay, set_wiring
from tall_heron.core.electrics.feeds import harness_of
from tall_heron.core.electrics.sender import best_pull_up
from tall_heron.core.electrics.wire import area_mm2, sizes
from tall_heron.core.fixing.act import Act, Acts, Candidates, Wrong


def cut_off(words: str, **changes: Any) -> Candidates:
    """What may stop the pumps."""

    def acts(_: Wrong) -> Acts:
        yield Act(words, lambda build: set_wiring(build, "cut_off", **changes))

    return acts


def by_rule(w: Wrong) -> Acts:
    """Fuse and wires of a pump as the house reckons them."""
    bare = {"size": None}
    relay = _relay(w.build, w.part)
    yield Act(
        f"let the wires of {w.part} follow its fuse and its current",
        partial(_by_rule, pump=w.part, relay=relay, changes={"feed": bare, "earth": bare}),
        (w.part,),
    )
    yield Act(
        f"let fuse and wires of {w.part} follow its current",
        partial(
            _by_rule,
            pump=w.part,
            relay=relay,
            changes={"feed": bare, "earth": bare, "fuse_a": None},
        ),
        (w.part,),
    )


def _by_rule(build: Build, pump: str, relay: str, changes: dict[str, Any]) -> Build:
    build = set_branch(build, pump, **changes)
    return set_relay(build, relay, supply={"size": None}, fuse_a=None) if relay else build


def fuse(w: Wrong) -> Acts:
    """The fuse that follows from the current."""
    yield Act(
        f"fit the fuse that follows from the current of {w.part}",
        lambda build: set_branch(build, w.part, fuse_a=None),
        (w.part,),
    )
    yield from by_rule(w)


def thicker(w: Wrong) -> Acts:
    """The next thicker wires."""
    yield from by_rule(w)
    harness = harness_of(w.build)
    if harness is None or w.part not in harness.feeds:
        return
    now = area_mm2(harness.feeds[w.part].out.size)
    for size in [s for s in sizes(harness.wiring.sizes) if area_mm2(s) > now][:3]:
        wires = {"feed": {"size": size}, "earth": {"size": size}}
        yield Act(
            f"wire {w.part} with {size}, out and back",
            lambda build, wires=wires: set_branch(build, w.part, **wires),  # type: ignore[misc]
            (w.part,),
        )


def relay_rating(w: Wrong) -> Acts:
    """A relay, a switch or a connector that is rated for what flows."""
    harness, name = harness_of(w.build), _relay(w.build, w.part)
    if harness is None:
        return
    if name and name in harness.relays:
        by_rule = harness_of(set_relay(w.build, name, contact_a=None))
        if (
            by_rule is not None
            and (rated := by_rule.relays[name].rated) >= harness.relays[name].ampere
        ):
            yield Act(
                f"fit a relay of {rated:.0f} A as {name}",
                lambda build: set_relay(build, name, contact_a=None),
                (w.part,),
            )
    feed = harness.feeds.get(w.part)
    if feed is not None:
        yield Act(
            f"fit a connector of {2 * feed.highest:.0f} A at {w.part}",
            lambda build: set_branch(build, w.part, connector_a=round(2 * feed.highest)),
            (w.part,),
        )
        yield Act(
            f"let a relay feed {w.part}, and its switch the relay's coil",
            lambda build: set_branch(build, w.part, relay=_free(build), switch_a=None),
            (w.part,),
        )


def relay_at(w: Wrong) -> Acts:
    """A relay of its own."""
    yield Act(
        f"let a relay of its own feed {w.part}",
        lambda build: set_branch(build, w.part, relay=_free(build)),
        (w.part,),
    )


def capped(w: Wrong) -> Acts:
    """The wire on 87 and 87a capped."""
    name = _relay(w.build, w.part)
    for at in dict.fromkeys(
        (name, *(r.name for r in (w.build.wiring.relays if w.build.wiring is not None else ())))
    ):
        if at and at in w.finding.title:
            yield Act(
                f"move the wire to 87 of {at} and cap 87a",
                lambda build, at=at: set_relay(build, at, terminal_87a="capped"),  # type: ignore[misc]
                (w.part,),
            )
            yield Act(
                f"fit a relay with a suppressed coil as {at}",
                lambda build, at=at: set_relay(build, at, suppressed=True),  # type: ignore[misc]
                (w.part,),
            )


def apart(w: Wrong) -> Acts:
    """A relay for each pump; in an aircraft the second pump on the other bus."""
    wiring = w.build.wiring
    if wiring is None:
        return

    def own_relays(build: Build) -> Build:
        met: set[str] = set()
        for pump, branch in wiring.branches.items():
            if branch.relay and branch.relay in met:
                build = set_branch(build, pump, relay=_free(build))
            met.add(branch.relay)
        return build

    pumps = list(wiring.branches)
    yield Act("give each pump a relay of its own", own_relays, tuple(pumps))
    if len(pumps) > 1:
        yield Act(
            f"feed {pumps[1]} from bus 2",
            lambda build: set_branch(build, pumps[1], bus="2"),
            (pumps[1],),
        )


def alternator(w: Wrong) -> Acts:
    """A larger alternator, as they are sold."""
    wiring = w.build.wiring
    if wiring is None:
        return
    for label in (float(row["ampere"]) for row in table("alternators")):
        if label > wiring.supply.alternator_a:
            yield Act(
                f"fit an alternator of {label:.0f} A",
                lambda build, label=label: set_wiring(build, "supply", alternator_a=label),  # type: ignore[misc]
            )


def branch(w: Wrong) -> Acts:
    """A branch for a pump without one."""
    yield Act(f"wire {w.part}", lambda build: set_branch(build, w.part), (w.part,))


def goes_off_lower(w: Wrong) -> Acts:
    """A stage that goes off lower than it comes on."""
    e = w.element
    if e is not None and e.stage is not None:
        new = e.stage.model_copy(update={"off_at": round(0.7 * e.stage.at, 3)})
        yield Act(
            f"let {e.id} go off at 70 % of what it comes on at",
            lambda build: set_stage(build, e.id, new),
            (e.id,),
        )


def pull_up(w: Wrong) -> Acts:
    """The resistor at which full and empty lie furthest apart."""
    if w.build.wiring is not None:
        s = w.build.wiring.sender
        ohm = round(best_pull_up(s.empty_ohm, s.full_ohm))
        yield Act(
            f"pull the sender up by {ohm} Ω",
            lambda build: set_wiring(build, "sender", pull_up_ohm=ohm),
        )
        yield Act(
            f"pull the sender up by {ohm} Ω to 5 V",
            lambda build: set_wiring(build, "sender", pull_up_ohm=ohm, supply_v=5.0, range_v=5.0),
        )


def _relay(build: Build, pump: str) -> str:
    wired_branch = build.wiring.branches.get(pump) if build.wiring is not None else None
    return wired_branch.relay if wired_branch is not None else ""


def _free(build: Build) -> str:
    return (build.wiring or Wiring()).free_relay
