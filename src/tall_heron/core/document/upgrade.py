"""Documents of earlier formats, read for good: what has another name or place now is put there before anything is checked."""

from typing import Any

from tall_heron.core.base.units import parse

CLOSE = 1e-3  # mm: a text that says another length than the document is not what was typed for it


def upgraded(data: dict[str, Any]) -> dict[str, Any]:
    """A build's document in today's format; of tall-heron-build/1 or without a format, the figures of elements stood under `part`, their properties under `about`,
    accepted findings named a `part`, and texts of typed lengths stood beside the circuit."""
    if data.get("format", "tall-heron-build/1") != "tall-heron-build/1":
        return data
    out = {key: value for key, value in data.items() if key != "format"}
    circuit, typed = out.get("circuit"), out.get("typed")
    texts = dict(typed) if isinstance(typed, dict) else {}
    if isinstance(circuit, dict) and isinstance(circuit.get("elements"), list):
        elements = [_with_text(upgraded_part(e), texts) for e in circuit["elements"]]
        out["circuit"] = circuit | {"elements": elements}
    if isinstance(typed, dict):
        out["typed"] = {key: text for key, text in texts.items() if not (key.startswith("/circuit/") and key.endswith("/length"))}
    if isinstance(out.get("accepted"), list):
        out["accepted"] = [_renamed(a, {"part": "element_id"}) for a in out["accepted"]]
    return out


def upgraded_part(data: Any) -> Any:
    """An element, or a part of one's own, with today's names."""
    return _renamed(data, {"part": "figures", "about": "properties"})


def _renamed(data: Any, names: dict[str, str]) -> Any:
    if not isinstance(data, dict):
        return data
    return {names[key] if key in names and names[key] not in data else key: value for key, value in data.items()}


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
