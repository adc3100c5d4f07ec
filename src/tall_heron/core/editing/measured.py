"""What was measured put into the build, with its provenance: pumps by a rig, injectors by a rig, a
sender by its pours.
"""

from tall_heron.core.base.errors import BuildError, BuildErrors
from tall_heron.core.document.build import Build
from tall_heron.core.document.circuit import Element


def with_element(build: Build, element: Element) -> Build:
    """A build with another element in the place of the one of its name."""
    if build.circuit.element(element.id) is None:
        raise BuildErrors([BuildError("", f"there is no {element.id}")])
    return build.model_copy(
        update={
            "circuit": build.circuit.model_copy(
                update={
                    "elements": [
                        element if e.id == element.id else e for e in build.circuit.elements
                    ]
                }
            )
        }
    )


def with_spread(build: Build, spread: float) -> Build:
    """Injectors of which the least gives so much under their mean [-], as it was measured; the
    worst cylinder is reckoned with it.
    """
    out = build
    for e in build.circuit.of_kind("injectors"):
        out = with_element(
            out,
            e.model_copy(
                update={
                    "properties": e.properties.model_copy(
                        update={
                            "flow_tolerance": round(max(spread, 0.0), 4),
                            "provenance": "measured",
                        }
                    )
                }
            ),
        )
    return out


def with_sender(build: Build, empty: float, full: float) -> Build:
    """The level sender's ends as they were measured in their tank [ohm]."""
    if build.wiring is None:
        raise BuildErrors([BuildError("", "wire the build first: the sender stands in its wiring")])
    sender = build.wiring.sender.model_copy(
        update={"empty_ohm": round(empty, 1), "full_ohm": round(full, 1)}
    )
    guessed = [x for x in build.wiring.guessed if x != "sender"]
    return build.model_copy(
        update={"wiring": build.wiring.model_copy(update={"sender": sender, "guessed": guessed})}
    )
