"""What solving gives, in SI."""

from dataclasses import dataclass, field


@dataclass(slots=True)
class LinkResult:
    """One link: `flow` [m3/s] from start to end, `loss` [Pa] p_start - p_end or None where a pressure is undefined, `velocity` [m/s], `reynolds` [-]."""

    element: str
    key: str
    start: str
    end: str
    flow: float
    loss: float | None
    state: str
    velocity: float | None = None
    reynolds: float | None = None
    transition: bool = False
    current: float | None = None


@dataclass(slots=True)
class Solution:
    """Pressures `nodes` [Pa] gauge (None where undefined), `links` by key; asked and delivered flow of the injectors [m3/s]. Not converged: `part` and `reason`."""

    converged: bool
    nodes: dict[str, float | None] = field(default_factory=dict)
    links: dict[str, LinkResult] = field(default_factory=dict)
    asked: float = 0.0
    delivered: float = 0.0
    density: float = 0.0
    viscosity: float = 0.0
    part: str | None = None
    reason: str = ""
    iterations: int = 0
    residual: float = 0.0

    def link(self, element_id: str) -> LinkResult | None:
        """The first link of an element."""
        return self.links.get(element_id) or next((x for x in self.links.values() if x.element == element_id), None)
