"""A build begun from one line: read, laid out, sized; what the brief cannot take is asked about,
never refused.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from pydantic import ValidationError

from tall_heron.core.base.constants import HORSEPOWER
from tall_heron.core.base.errors import wrong
from tall_heron.core.begin.drawing import begun_route, signed_only
from tall_heron.core.document.build import Brief, Build, readable
from tall_heron.core.document.wish import MOST_WISHES, Question, asked_once
from tall_heron.core.editing.drawn import followed
from tall_heron.core.editing.fields import set_brief
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.editing.wiring import electric_pumps, wire_by_rule
from tall_heron.core.electrics.feeds import highest_current
from tall_heron.core.fixing.fixes import fix_of
from tall_heron.core.line.heard import LineReading
from tall_heron.core.line.reading import read_line
from tall_heron.core.rules import CASE_RULES, check
from tall_heron.core.rules.finding import AGAINST
from tall_heron.core.shelf.own_part import STEM, OwnPart
from tall_heron.core.sizing.auto_size import against, proposed
from tall_heron.core.sizing.first_build import first_brief, first_build, left_open
from tall_heron.core.sizing.groups import make_groups
from tall_heron.core.sizing.on_hand import answered, with_tank
from tall_heron.core.study.study import make_study

LONGEST_NAME = 60
HEAT = tuple(rule for rule in CASE_RULES if rule.id == "C-09")  # a tank that warms in a queue


@dataclass(frozen=True)
class Started:
    """A build as it is `laid` out with usual parts and as it is `sized`; whether the line `says`
    anything of a fuel system, and parts `on_hand` by their names for the shelf.
    """

    laid: Build
    sized: Build
    says: bool
    on_hand: dict[str, OwnPart]


def start(line: str, refusal: Callable[[str, str], str] = lambda field, text: "") -> Started:
    """Begin a build from a line of at most 300 letters. `refusal` says in the words of a page why a
    field of the brief cannot be what was typed; empty where it can.
    """
    read = read_line(line)
    for name, text in list(read.typed.items()):
        if name in read.fields and (why := refusal(name, text)):
            _let_go(read, name, why)
    brief = _brief(read)
    name = read.name or (
        line if not read.says else f"{brief.power / HORSEPOWER:.0f} hp on {brief.fuel}"
    )
    first = first_build(
        name[:LONGEST_NAME],
        brief,
        {},
        read.layout,
        read.banks,
        left_open(brief, read.fields),
        read.wishes,
        read.rails,
        read.outline,
    )
    line_document: dict[str, Any] = {
        "line": line if read.says else "",
        "questions": asked_once(read.questions),
        "typed": _typed(read),
    }
    sized = cooled(drawn(first.sized)).model_copy(update=line_document)
    return Started(first.laid.model_copy(update=line_document), sized, read.says, on_hand(sized))


def drawn(sized: Build) -> Build:
    """A sized build with its lines drawn and its pumps wired; sized once more where the ways found
    are so much longer, or the voltage so much other, that something falls short.
    """
    out = begun_route(sized)
    if any(highest_current(e) is not None for e in electric_pumps(out)):
        out = wire_by_rule(out)
    before = {(f.rule, f.element_id) for f in against(make_study(sized))}
    if all((f.rule, f.element_id) in before for f in against(make_study(out))):
        return out
    again = followed(proposed(out, fresh=True).build.model_copy(update={"wiring": out.wiring}))
    if again.wiring is not None:
        again = wire_by_rule(again)
    return signed_only(again, set(again.space.routes))


def cooled(build: Build) -> Build:
    """The build with what its own cases find of heat mended as its fix would: two pumps that run
    all the while boil a street car's tank in a queue, so the second waits.
    """
    if (
        build.brief is None
        or not build.brief.boosted
        or build.brief.use != "street"
        or len(electric_pumps(build)) < 2
    ):
        return build
    study = make_study(build)
    for finding in check(study, HEAT)[0]:
        if finding.level in AGAINST and (fix := fix_of(study, finding)) is not None:
            return fix.build
    return build


def _brief(read: LineReading) -> Brief:
    """The brief of what was read; figures that no engine has are taken out and asked about."""
    for _ in range(len(read.fields) + 1):
        try:
            return first_brief(read.fields, read.layout, read.outline)
        except ValidationError as error:
            for detail in error.errors():
                _let_go(
                    read, str(detail["loc"][0]) if detail["loc"] else "", readable(detail).message
                )
    return first_brief({})


def _let_go(read: LineReading, name: str, why: str) -> None:
    """A figure that no engine has is taken out, and asked about."""
    text = read.typed.pop(name, name)
    if read.fields.pop(name, None) is not None:
        read.questions.append(
            Question(
                text=text[:300],
                asks=f"{why.rstrip('.')}; until it is said otherwise, the usual is taken"[:300],
            )
        )


def _typed(read: LineReading) -> dict[str, str]:
    """The texts of figures, as they were typed."""
    return {
        f"/brief/{key}": text
        for key, text in read.typed.items()
        if isinstance(read.fields.get(key), float)
    }


def answered_question(build: Build, text: str, guess: str, fresh: bool) -> Build:
    """The build with a question of its line answered by one of its guesses, or let be with none;
    begun again where what it has is `fresh` from its line. Raises BuildErrors.
    """
    asked = next(
        (q for q in build.questions if q.text == text and (not guess or guess in q.guesses)), None
    )
    if asked is None:
        raise wrong("question", "that is no longer asked")
    build = build.model_copy(update={"questions": [q for q in build.questions if q is not asked]})
    if not guess:
        return build
    read = read_line(guess)
    typed = _typed(read)
    for name, value in read.fields.items():
        if name != "title":
            build = set_brief(build, name, value, typed.get(f"/brief/{name}"))
    wishes = [w for w in build.wishes if not read.wishes or w.text != text] + read.wishes
    build = build.model_copy(update={"wishes": wishes})
    return (
        _begun_again(build)
        if fresh
        else build.model_copy(update={"wishes": answered(wishes, build)})
    )


def with_parts(build: Build, text: str, fresh: bool) -> Build:
    """The build with parts that the builder has, in any words the line takes: kept from now on;
    begun again where what it has is `fresh` from its line, else only what they are is sized
    to them. Raises BuildErrors where the text names none.
    """
    read = read_line(text)
    if not read.wishes:
        raise wrong(
            "have",
            "that names no part: write for example 340 lph pump, 650 cc injectors, -8 feed -6 return, or 12 gal cell",
        )
    others = [w for w in build.wishes if w.kind not in {x.kind for x in read.wishes}]
    wishes = (others + read.wishes)[-MOST_WISHES:]
    build = build.model_copy(
        update={
            "wishes": wishes,
            "questions": asked_once([*build.questions, *read.questions]),
        }
    )
    if fresh:
        return _begun_again(build)
    groups = make_groups(make_study(build))
    kinds = {{"pumps": "pump"}.get(w.kind, w.kind) for w in read.wishes}
    keep = [i for g in groups if g.kind not in kinds for i in g.ids]
    circuit = with_tank(build.circuit, read.wishes)
    if any(g.kind in kinds for g in groups):
        circuit = proposed(
            build.model_copy(update={"circuit": circuit}), keep=keep, fresh=True
        ).build.circuit
    build = build.model_copy(update={"circuit": circuit})
    return build.model_copy(update={"wishes": answered(wishes, build)})


def without_part(build: Build, text: str) -> Build:
    """The build with a wish forgotten; what was fitted for it stays until it is sized again. Raises
    BuildErrors.
    """
    if text not in {w.text for w in build.wishes}:
        raise wrong("have", "that is no longer in the list")
    return build.model_copy(update={"wishes": [w for w in build.wishes if w.text != text]})


def _begun_again(build: Build) -> Build:
    """A build begun again from its line, with what is known of its brief and its parts now."""
    assert build.brief is not None
    line = read_line(build.line)
    layout = next(
        (w.value for w in build.wishes if w.kind == "layout" and w.value in LAYOUTS), line.layout
    )
    rails = next((w.value for w in build.wishes if w.kind == "rails"), line.rails)
    first = first_build(
        build.name,
        build.brief,
        {},
        layout,
        line.banks,
        build.assumed,
        build.wishes,
        rails,
        line.outline,
    )
    cooled_build = cooled(drawn(first.sized))
    build = build.model_copy(
        update={
            "circuit": cooled_build.circuit,
            "space": cooled_build.space,
            "wiring": cooled_build.wiring,
        }
    )
    return build.model_copy(update={"wishes": answered(build.wishes, build)})


def on_hand(build: Build) -> dict[str, OwnPart]:
    """Parts of a build that the builder has, by their names on the shelf."""
    return {
        e.shelf: OwnPart(title=e.title, kind=e.kind, figures=e.figures, properties=e.properties)
        for e in build.circuit.elements
        if e.shelf is not None and e.shelf.startswith(STEM)
    }
