"""Joints of whole builds: every port meets what the circuit says, adapters follow sizes, and what
somebody said stands.
"""

import pytest
from first_lines import LINES as FIRST_LINES

from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.begin.started import start
from tall_heron.core.document.build import Build, dump, load
from tall_heron.core.document.kinds import LINES
from tall_heron.core.editing import shop as edit
from tall_heron.core.editing.additions import ADDITIONS
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.fields import fit, remove
from tall_heron.core.editing.topology import insert, take_out
from tall_heron.core.joining.chains import fits
from tall_heron.core.joining.joints import Joint, joints_of
from tall_heron.core.line.reading import read_line
from tall_heron.core.sizing.first_build import first_brief, first_build
from tall_heron.core.study.study import make_study

DEMO = demo_builds()


def joint(build: Build, key: str) -> Joint:
    return joints_of(build).by_key[key]


def names(build: Build, key: str) -> list[str]:
    return [p.name for p in joint(build, key).pieces]


@pytest.mark.parametrize("name", list(DEMO))
def test_every_end_of_every_line_is_at_one_joint(name: str) -> None:
    """In all demos: no end is left out, none twice, and what is said to join does."""
    build = DEMO[name]
    found = joints_of(build)
    ends = [s.key for j in found.joints for s in (j.one, j.other) if s.line]
    assert len(ends) == len(set(ends))
    for e in build.circuit.elements:
        if e.kind in LINES and e.ports:
            assert {f"{e.id}.a", f"{e.id}.b"} <= set(ends) | {s.key for s in found.alone}
    for j in found.joints:
        assert j.how.state in ("direct", "adapter")
        assert fits(j.one.face, j.pieces, j.other.face)


def test_another_size_asks_for_another_adapter() -> None:
    build = DEMO["bittern"]
    assert names(build, "H3.b") == [
        "reducer-10-8",
        "swivel-8",
    ]  # the swivel reducer is out of stock
    for size, wanted in (("-8", []), ("-6", ["step-8-6"]), ("-12", ["step-8-12"])):
        assert names(fit(build, "H3", f"ptfe{size}"), "H3.b") == wanted
    assert len(names(fit(build, "H3", "ptfe-16"), "H3.b")) == 2  # three sizes away: by two pieces


def test_two_ports_face_to_face_have_a_coupler_and_a_step_has_another_way() -> None:
    j = joint(DEMO["bittern"], "RL.end")
    assert ([p.name for p in j.pieces], j.how.state) == (["swivel-8"], "adapter")
    other = ["step-8-10"]
    assert other in [[p.name for p in way] for way in joint(DEMO["bittern"], "H3.b").how.ways]
    chosen = edit.choose_adapters(DEMO["bittern"], "H3.b", other)
    assert joint(chosen, "H3.b").picked
    assert names(chosen, "H3.b") == other
    assert names(load(dump(chosen)), "H3.b") == other
    assert names(edit.choose_adapters(chosen, "H3.b", []), "H3.b") == ["reducer-10-8", "swivel-8"]
    with pytest.raises(BuildErrors, match="does not join"):
        edit.choose_adapters(DEMO["bittern"], "H3.b", ["swivel-8"])
    with pytest.raises(BuildErrors, match="no connection"):
        edit.choose_adapters(DEMO["bittern"], "nowhere.a", ["swivel-8"])


def test_what_was_chosen_for_another_end_is_said_not_to_fit() -> None:
    build = edit.choose_adapters(DEMO["bittern"], "H3.b", ["step-8-10"])
    assert not joint(build, "H3.b").broken
    after = joint(fit(build, "H3", "ptfe-12"), "H3.b")
    assert after.broken
    assert [p.name for p in after.pieces] == ["step-8-12"]


def test_three_ends_at_one_place_need_a_tee_and_a_drawn_one_needs_none() -> None:
    assert joints_of(DEMO["bittern"]).hubs == (("pump inlet", "tee-10"),)
    assert joints_of(DEMO["curlew"]).hubs == ()
    added, _ = ADDITIONS["pump"].add(DEMO["curlew"], "P1")
    assert joints_of(added).hubs == (
        ("pump inlet", "tee-12"),
    )  # its Y behind the pumps is drawn, the one before them is not
    assert all(j.how.state in ("direct", "adapter") for j in joints_of(added).joints)


def test_a_port_that_somebody_looked_at_stands_over_the_shelf() -> None:
    build = edit.set_face(DEMO["bittern"], "F2", "end", "metric M18x1.5")
    assert joint(build, "H3.a").other.face.text == "metric M18x1.5"
    assert names(build, "H3.a") == ["metric-10"]
    assert names(edit.set_face(build, "F2", "end", ""), "H3.a") == []
    with pytest.raises(BuildErrors, match="no thread that is known"):
        edit.set_face(build, "F2", "end", "3/9 whatever")
    with pytest.raises(BuildErrors, match="no port"):
        edit.set_face(build, "F2", "left", "port -8")


def test_bare_hose_meets_a_bead_and_not_a_plain_tube() -> None:
    build = DEMO["dunlin"]
    elements = [
        e.model_copy(update={"end_a": None, "end_b": None}) if e.id == "H2" else e
        for e in build.circuit.elements
    ]
    bare = build.model_copy(
        update={"circuit": build.circuit.model_copy(update={"elements": elements})}
    )
    assert joint(edit.set_face(bare, "P1", "end", "bead -8"), "H2.a").how.state == "direct"
    assert joint(edit.set_face(bare, "P1", "end", "tube -8"), "H2.a").how.state == "refused"
    assert names(bare, "H2.a") == ["barb-nut-8"]


def test_adapters_put_into_the_circuit_count_and_are_no_longer_derived() -> None:
    """Their loss is in the sums: the feed takes more, by K on the bore, and the joint is made of
    what is drawn.
    """
    build = DEMO["curlew"]
    fitted = edit.fit_adapters(build, "H3.a")
    new = [e for e in fitted.circuit.elements if e.id not in {x.id for x in build.circuit.elements}]
    assert [e.shelf for e in new] == ["step-10-8"]
    keys = joints_of(fitted).by_key
    assert keys["H3.a"].how.state == "direct"
    assert {j.how.state for j in joints_of(fitted).of(new[0].id)} == {"direct"}
    before, after = make_study(build).peak.solution, make_study(fitted).peak.solution
    link = next(x for x in after.links.values() if x.element == new[0].id)
    assert link.loss is not None
    assert link.velocity is not None
    assert link.loss == pytest.approx(0.35 * after.density * link.velocity**2 / 2, rel=0.02)
    assert before.links["H3"].loss == pytest.approx(link.loss + after.links["H3"].loss, rel=1e-4), (
        "drawn or not, it is in the sums"
    )
    assert edit.fit_adapters(fitted, "H3.a") is fitted


def test_drawing_the_adapters_of_any_joint_makes_the_parts_named_closes_it_and_opens_none() -> None:
    """Over every joint of the demos and of begun builds, either side; all at once leaves none,
    takes no flow away, and is one step.
    """
    builds = [*DEMO.values(), *(start(line).sized for line in FIRST_LINES[::39])]
    many = 0
    for build in builds:
        before = joints_of(build)
        states = {j.key: j.how.state for j in before.joints}
        todo = [
            j
            for j in before.joints
            if j.pieces and any(edit.drawable(build, s) for s in (j.one, j.other))
        ]
        for j in todo:
            after = edit.fit_adapters(build, j.key)
            joints, new = (
                joints_of(after),
                [e for e in after.circuit.elements if build.circuit.element(e.id) is None],
            )
            assert sorted(str(e.shelf) for e in new) == sorted(p.name for p in j.pieces)
            assert {x.how.state for e in new for x in joints.of(e.id)} == {"direct"}, (
                f"{build.name}: {j.key}"
            )
            assert all(
                x.how.state in (states.get(x.key), "direct") and not x.broken for x in joints.joints
            ), f"{build.name}: {j.key}"
            assert (joints.alone, joints.shut, joints.hubs) == (
                before.alone,
                before.shut,
                before.hubs,
            )
            assert edit.fit_adapters(after, j.key) is after
        many += len(todo)
        drawn = edit.fit_every_adapter(build)
        assert not [
            j.key
            for j in joints_of(drawn).joints
            if j.pieces and any(edit.drawable(drawn, s) for s in (j.one, j.other))
        ]
        once, then = make_study(build).peak.solution, make_study(drawn).peak.solution
        assert {p.id: then.flow(p.id) for p in build.circuit.of_kind("pump")} == pytest.approx(
            {p.id: once.flow(p.id) for p in build.circuit.of_kind("pump")}, rel=5e-4
        )
    assert many > 50


def test_a_chain_of_three_stands_the_same_way_from_either_side() -> None:
    """The middle one meets adapters alone: it is turned with its neighbors. Said -16 against a
    metric port, three pieces.
    """
    build = DEMO["curlew"]
    for key, port in (("F2", "start"), ("F2", "end")):
        said = edit.set_face(build, key, port, "port -16")
        j = joints_of(said).at(f"{key}.{port}")
        assert j is not None
        assert len(j.pieces) >= 2
        after = edit.fit_adapters(said, j.key)
        assert {
            x.how.state
            for e in after.circuit.elements
            if build.circuit.element(e.id) is None
            for x in joints_of(after).of(e.id)
        } == {"direct"}


def test_an_unlike_adapter_in_the_circuit_is_taken_the_way_round_that_fits() -> None:
    build, tag = insert(DEMO["curlew"], "RL", "swivel-8")
    assert {j.how.state for j in joints_of(build).of(tag)} == {"direct"}
    build, tag = insert(DEMO["curlew"], "F2", "step-10-8")
    assert {j.how.state for j in joints_of(build).of(tag)} == {"direct"}


def test_what_is_said_of_a_part_goes_with_it() -> None:
    build = edit.set_made(edit.set_face(DEMO["bittern"], "F2", "end", "port -8"), "H3", "car")
    build = edit.plan_later(build, "H3", "ptfe-12")
    out = take_out(take_out(build, "F2"), "H3") if build.circuit.element("H3") else build
    assert "F2" not in out.shop.faces
    assert "H3" not in out.shop.made
    assert "H3" not in out.shop.later
    assert remove(build, "T1").shop == build.shop


LINES_OF_TEXT = (
    "700 hp E85 saddle tank, two pumps",
    "180 hp carburetor high wing two wing tanks flight",
    "350 hp carburetor",
    "1900 hp methanol drag",
    "60 hp",
    "450 hp flex with surge tank",
    "300 hp returnless",
    "180 hp biplane gravity",
)


@pytest.mark.parametrize("line", LINES_OF_TEXT)
def test_builds_from_a_sentence_are_joined_or_say_why_not(line: str) -> None:
    read = read_line(line)
    build = first_build(
        "made", first_brief(read.fields, read.layout), {}, read.layout, read.banks
    ).laid
    found = joints_of(build)
    assert len(found.joints) >= 4
    for j in found.joints:
        assert j.how.state in ("direct", "adapter"), (j.one, j.other)
