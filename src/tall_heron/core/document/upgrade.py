"""Documents of earlier formats, read for good: what has another name or place now is put there
before anything is checked.
"""

from typing import Any

from tall_heron.core.base.units import parse

DRAWN_SOURCES = ("source", "clock_source", "place_source")
CLOSE = 1e-3  # mm: a text that says another length than the document is not what was typed for it


def upgraded(data: dict[str, Any]) -> dict[str, Any]:
    """A build's document in today's format. In tall-heron-build/2 what was drawn did not say in
    which vehicle; of tall-heron-build/1 or without a format, the figures of elements
    stood under `part`, their properties under `about`, accepted findings named a `part`, and texts
    of typed lengths stood beside the circuit.
    """
    form = data.get("format", "tall-heron-build/1")
    if form == "tall-heron-build/2":
        return _outlined({key: value for key, value in data.items() if key != "format"})
    if form != "tall-heron-build/1":
        return data
    out = {key: value for key, value in data.items() if key != "format"}
    circuit, typed = out.get("circuit"), out.get("typed")
    texts = dict(typed) if isinstance(typed, dict) else {}
    if isinstance(circuit, dict) and isinstance(circuit.get("elements"), list):
        elements = [_with_text(upgraded_part(e), texts) for e in circuit["elements"]]
        out["circuit"] = circuit | {"elements": elements}
    if isinstance(typed, dict):
        out["typed"] = {
            key: text
            for key, text in texts.items()
            if not (key.startswith("/circuit/") and key.endswith("/length"))
        }
    if isinstance(out.get("accepted"), list):
        out["accepted"] = [_renamed(a, {"part": "element_id"}) for a in out["accepted"]]
    return _outlined(out)


def _outlined(data: dict[str, Any]) -> dict[str, Any]:
    """Of tall-heron-build/2 and before a figure that was drawn said so whatever it was drawn in:
    where no dimension of the vehicle was typed, it was a stock outline.
    """
    space, circuit = data.get("space"), data.get("circuit")
    if not isinstance(circuit, dict) or (isinstance(space, dict) and space.get("dimensions")):
        return data

    def drawn(thing: Any) -> Any:
        if not isinstance(thing, dict):
            return thing
        out = {
            key: "outline" if key in DRAWN_SOURCES and value == "route" else value
            for key, value in thing.items()
        }
        return (
            out | {"length": drawn(out["length"])} if isinstance(out.get("length"), dict) else out
        )

    lists = {
        key: [drawn(x) for x in circuit[key]]
        for key in ("elements", "nodes")
        if isinstance(circuit.get(key), list)
    }
    return data | {"circuit": circuit | lists}


def upgraded_part(data: Any) -> Any:
    """An element, or a part of one's own, with today's names."""
    return _renamed(data, {"part": "figures", "about": "properties"})


def _renamed(data: Any, names: dict[str, str]) -> Any:
    if not isinstance(data, dict):
        return data
    return {
        names[key] if key in names and names[key] not in data else key: value
        for key, value in data.items()
    }


def _with_text(element: Any, texts: dict[str, Any]) -> Any:
    """An element with the text its length was typed as, where that text still says the same length."""
    if not isinstance(element, dict) or not isinstance(element.get("length"), dict):
        return element
    text, length = texts.get(f"/circuit/{element.get('id')}/length"), element["length"]
    if not isinstance(text, str) or "typed" in length:
        return element
    try:
        mm = parse(text, "length", "mm") * 1000
    except ValueError:
        return element
    if abs(mm - length.get("mm", 0.0)) > CLOSE:
        return element
    return element | {"length": length | {"typed": text}}
