"""Changes to what is joined to what, from the card of a part."""

from collections.abc import Callable

from flask import Blueprint, Response
from pydantic import ValidationError

from tall_heron.core.base.constants import KPA
from tall_heron.core.base.units import parse
from tall_heron.core.document.build import Build
from tall_heron.core.document.circuit import Stage
from tall_heron.core.editing import topology as rework
from tall_heron.core.editing.additions import ADDITIONS
from tall_heron.core.editing.fields import set_capacity, set_mounting, set_stage
from tall_heron.core.rules.words import named
from tall_heron.web import answers
from tall_heron.web.forms import reading
from tall_heron.web.forms.field import Field
from tall_heron.web.page_answer import answer
from tall_heron.web.show.units import unit

pages = Blueprint("rework", __name__)

Act = Callable[
    [Build, str, str], tuple[Build, str, str]
]  # build, part, value -> build, name of the act, part to show


def _before(build: Build, part: str, value: str) -> tuple[Build, str, str]:
    wanted = ADDITIONS.get(value)
    if wanted is not None and not wanted.through:
        raise reading.Refused(
            "value", f"“{wanted.words}” goes behind a part: it has more than two ends."
        )
    new, made = rework.insert(build, part, wanted.through if wanted is not None else value, True)
    return new, f"{made} {_title(new, made)} put in before {part}", made


def _behind(build: Build, part: str, value: str) -> tuple[Build, str, str]:
    wanted = ADDITIONS.get(value)
    new, made = wanted.add(build, part) if wanted is not None else rework.insert(build, part, value)
    before = {e.id for e in build.circuit.elements}
    others = [e.id for e in new.circuit.elements if e.id not in before and e.id != made]
    return (
        new,
        f"{made} {_title(new, made)} put in behind {part}{f', with {named(others)}' if others else ''}",
        made,
    )


def _title(build: Build, tag: str) -> str:
    element = build.circuit.element(tag)
    return element.title or element.kind if element is not None else ""


def _tap(build: Build, part: str, value: str) -> tuple[Build, str, str]:
    new, made = rework.add_tap(build, part, value)
    return new, f"{made} put on {part}", made


def _out(build: Build, part: str, value: str) -> tuple[Build, str, str]:
    new = rework.take_out_whole(build, part)
    left = {e.id for e in new.circuit.elements}
    with_it = [e.id for e in build.circuit.elements if e.id not in left and e.id != part]
    return new, f"{part} taken out{f', with {named(with_it)}' if with_it else ''}", ""


def _split(build: Build, part: str, value: str) -> tuple[Build, str, str]:
    new, made = rework.split(build, part)
    return new, f"{part} split into {part} and {made}", made


def _second(build: Build, part: str, value: str) -> tuple[Build, str, str]:
    new, made = rework.second_pump(build, part)
    return new, f"{made} set beside {part}, with checks and a Y", made


def _turn(build: Build, part: str, value: str) -> tuple[Build, str, str]:
    return rework.turn_round(build, part), f"{part} turned round", part


LENGTH = Field("value", "Length", "length", 1000.0)


def _mm(text: str) -> float:
    return LENGTH.read(text)


def _height(build: Build, part: str, value: str) -> tuple[Build, str, str]:
    port, _, text = value.partition(" ")
    return (
        rework.set_height(build, part, port, _mm(text)),
        f"{part}: its {port} at {text.strip()}",
        part,
    )


def _placed(way: str, words: str) -> Act:
    def place(build: Build, part: str, value: str) -> tuple[Build, str, str]:
        port, _, text = value.partition(" ")
        mm = _mm(text) if text.strip() else None
        return (
            rework.set_place(build, part, port, way, mm),
            f"{part}: its {port} {text.strip() or 'distance not given'} {words}",
            part,
        )

    return place


def _level(build: Build, part: str, value: str) -> tuple[Build, str, str]:
    return (
        rework.set_level(build, part, _mm(value)),
        f"{part}: filled to {value.strip()} over its outlet",
        part,
    )


def _holds(build: Build, part: str, value: str) -> tuple[Build, str, str]:
    try:
        liters = parse(value, "volume", unit("tank_volume").word) * 1000
    except ValueError as error:
        raise reading.Refused("value", str(error)) from None
    return set_capacity(build, part, liters), f"{part}: holds {value.strip()}", part


def _trigger(text: str) -> tuple[str, float]:
    """What a trigger goes by, and at what, as it is typed. Raises ValueError."""
    if text in ("switch", "by switch"):
        return "switch", 0.0
    if "duty" in text or text.endswith("%"):
        return "duty", parse(text.replace("duty", "").strip(), "fraction", "%")
    if "rpm" in text:
        return "speed", parse(text, "speed", "rpm") * 60
    return "boost", parse(text, "pressure", unit("pressure").word) / KPA


STAGES = " Write always, a boost such as 8 psi, a speed such as 4000 rpm, 60 % duty, or switch; with what it goes off at: 8 psi off 6 psi."


def _stage(build: Build, part: str, value: str) -> tuple[Build, str, str]:
    text, _, back = value.strip().lower().removeprefix("from ").partition("off")
    text, back = (
        x.strip(" ,;").removesuffix(" of boost").removesuffix(" boost") for x in (text, back)
    )
    if text in ("", "always"):
        return set_stage(build, part, None), f"{part}: runs always", part
    try:
        by, at = _trigger(text)
        off = _trigger(back) if back else None
        stage = Stage.model_validate(
            {"by": by, "at": at, "off_at": off[1] if off is not None else None}
        )
    except ValidationError as error:
        why = (
            "It goes off below where it comes on."
            if "goes off" in str(error)
            else "A boost or a speed is zero or more, a duty at most 100 %."
        )
        raise reading.Refused("value", why + STAGES) from None
    except ValueError as error:
        raise reading.Refused("value", str(error).rstrip(".") + "." + STAGES) from None
    if off is not None and off[0] != by:
        raise reading.Refused(
            "value",
            f"It comes on by {by} and must go off by {by}: write for example 8 psi off 6 psi.",
        )
    return (
        set_stage(build, part, stage),
        f"{part}: runs from {text} on{f', off at {back}' if back else ''}",
        part,
    )


def _mounting(build: Build, part: str, value: str) -> tuple[Build, str, str]:
    return set_mounting(build, part, value.strip()), f"{part}: mounted {value.strip()}", part


def _rejoin(build: Build, part: str, value: str) -> tuple[Build, str, str]:
    port, _, node = value.partition(" ")
    return rework.rejoin(build, part, port, node), f"{part}: its {port} routed to {node}", part


ACTS: dict[str, Act] = {
    "behind": _behind,
    "before": _before,
    "tap": _tap,
    "out": _out,
    "split": _split,
    "second": _second,
    "turn": _turn,
    "height": _height,
    "ahead": _placed("ahead", "ahead"),
    "right": _placed("right", "to the right"),
    "level": _level,
    "holds": _holds,
    "stage": _stage,
    "mounting": _mounting,
    "rejoin": _rejoin,
}


@pages.post("/builds/<slug>/rework")
def change(slug: str) -> Response:
    """One change to what is joined to what; the page then shows the part that is new, or the one
    that was changed.
    """
    data = answers.body()
    part, act, value = (reading.text_of(data, x) for x in ("at", "act", "value"))
    if act not in ACTS or len(value) > 200:
        raise reading.Refused("value", "There is no such change.")
    shown = part

    def make(build: Build) -> tuple[Build, str]:
        nonlocal shown
        new, name, shown = ACTS[act](build, part, value)
        return new, name

    stored = answers.act(slug, data, make, "value")
    return answer(stored, data | {"part": shown}, shown=shown)
