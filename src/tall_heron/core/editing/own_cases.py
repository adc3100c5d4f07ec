"""The cases of a build: the builder's own, and which are hidden."""

from typing import Any

from pydantic import ValidationError

from tall_heron.core.base.errors import BuildError, BuildErrors
from tall_heron.core.document.build import Build, readable
from tall_heron.core.document.own_case import OwnCase
from tall_heron.core.physics.fuel import fuel_named


def add_case(build: Build, fields: dict[str, Any]) -> Build:
    """Add a case of the builder's own, or change the one of its name. Raises BuildErrors with the
    field.
    """
    try:
        case = OwnCase.model_validate(fields)
        if case.fuel is not None:
            case = case.model_copy(update={"fuel": fuel_named(case.fuel).name})
    except ValidationError as error:
        raise BuildErrors([readable(e) for e in error.errors()]) from None
    except ValueError as error:
        raise BuildErrors([BuildError("/fuel", str(error))]) from None
    there = {e.id for e in build.circuit.elements}
    for name in (*case.off, *case.clogging, *case.position, *case.level_mm):
        if name not in there:
            raise BuildErrors(
                [
                    BuildError(
                        "/off" if name in case.off else "/clogging",
                        f"there is no part {name} in this circuit",
                    )
                ]
            )
    return build.model_copy(
        update={"cases": [*(c for c in build.cases if c.name != case.name), case]}
    )


def remove_case(build: Build, name: str) -> Build:
    """Take away a case of the builder's own. Raises BuildErrors where there is none of that name."""
    left = [c for c in build.cases if c.name != name]
    if len(left) == len(build.cases):
        raise BuildErrors([BuildError("/name", f"there is no case “{name}” of your own")])
    return build.model_copy(update={"cases": left})


def hide_case(build: Build, key: str, hidden: bool) -> Build:
    """Hide one of the cases, or show it again."""
    others = [k for k in build.hidden_cases if k != key]
    return build.model_copy(update={"hidden_cases": [*others, key] if hidden else others})
