"""Results as figures that can be kept: for each field of each result how many numbers it holds, their
sum, the least and the most; of text the numbers in it and how many letters.
"""

import re
import sys
from collections import defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import fields, is_dataclass
from pathlib import Path
from typing import Any

import numpy as np
from pydantic import BaseModel

from tall_heron.core.design import Design
from tall_heron.core.document.circuit import Circuit
from tall_heron.core.study.study import Study

FOLDER = Path(__file__).parent / "stored"
NUMBER = re.compile(r"(?<![\w.])-?\d+(?:,\d{3})*(?:\.\d+)?")
OTHERS = (Study, Design, Circuit)  # results that hold one are about it, and it is looked at itself
HUGE = 1e12  # what is larger is a doubt of something that cannot be told at all
CLOSE = 2e-4  # of a sum: a solution from another start differs in its last figures

Figures = dict[str, list[float]]


def gather(value: Any, at: str, into: Figures, seen: set[int]) -> None:
    """Every number below a value, under the class and field it stands in, each thing once."""
    if isinstance(value, bool | int | float | np.number | np.bool_):
        if abs(float(value)) < HUGE:
            into[at].append(float(value))
    elif isinstance(value, str):
        numbers = [float(x.replace(",", "")) for x in NUMBER.findall(value)]
        into[at].extend(numbers)
        into[f"{at}, letters"].append(float(len(NUMBER.sub("", value))))
    elif isinstance(value, np.ndarray):
        if value.dtype.kind in "fiub":
            into[at].extend(value[np.abs(value) < HUGE].astype(float).ravel().tolist())
    elif id(value) in seen or value is None or isinstance(value, OTHERS):
        return
    elif isinstance(value, dict):
        for key, one in value.items():
            gather(key, f"{at} key", into, seen)
            gather(one, at, into, seen)
    elif isinstance(value, list | tuple | set | frozenset):
        for one in value if isinstance(value, list | tuple) else sorted(value, key=str):
            gather(one, at, into, seen)
    elif is_dataclass(value) or isinstance(value, BaseModel):
        seen.add(id(value))
        names = (
            list(type(value).model_fields)
            if isinstance(value, BaseModel)
            else [f.name for f in fields(value)]  # type: ignore[arg-type]
        )
        names += [n for n, p in vars(type(value)).items() if isinstance(p, property)]
        for name in names:
            gather(getattr(value, name), f"{type(value).__name__}.{name}", into, seen)


def gathered(results: Any, at: str = "") -> Figures:
    """The figures of some results."""
    into: Figures = defaultdict(list)
    gather(results, at, into, set())
    return into


def written(figures: Figures) -> list[str]:
    return [
        f"{at}: {len(x)} = {sum(x):.7g}, {min(x):.7g} to {max(x):.7g}"
        for at, x in sorted(figures.items())
        if x
    ]


def stored(name: str) -> dict[str, list[str]]:
    parts = (FOLDER / name).read_text(encoding="utf-8").split("## ")[1:]
    return {p.splitlines()[0]: p.splitlines()[1:] for p in parts}


def alike(one: str, other: str) -> bool:
    """Whether two lines say the same but for the last figures of a sum."""
    (head, rest), (head2, rest2) = one.split(": ", 1), other.split(": ", 1)
    a, b = ([float(x) for x in re.split(" = |, | to ", r)] for r in (rest, rest2))
    scale = max(abs(a[2]), abs(a[3]), 1e-12)
    return (
        head == head2
        and a[0] == b[0]
        and abs(a[1] - b[1]) <= CLOSE * max(abs(a[1]), scale)
        and max(abs(a[2] - b[2]), abs(a[3] - b[3])) <= CLOSE * scale
    )


def as_read_over(name: str, made: Iterable[tuple[str, Figures]]) -> None:
    """What is made is what stands in a stored file; a sum may differ in its last figures."""
    before = stored(name)
    for title, figures in made:
        now, old = written(figures), before[title]
        heads = {x.split(": ", 1)[0]: x for x in old}
        moved = [
            f"{heads.get(x.split(': ', 1)[0], 'not there')} -> {x}"
            for x in now
            if not alike(x, heads.get(x.split(": ", 1)[0], ": 0 = 0, 0 to 0"))
        ]
        assert not moved, (title, moved)
        assert len(now) == len(old), title


def write_anew(name: str, made: Iterator[tuple[str, Figures]]) -> None:
    """Write a stored file anew; read the difference before it is committed."""
    (FOLDER / name).write_text(
        "".join(f"## {t}\n" + "".join(f"{x}\n" for x in written(f)) for t, f in made),
        encoding="utf-8",
    )
    sys.stdout.write(f"{name} written\n")
