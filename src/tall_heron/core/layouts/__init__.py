"""Layouts: each builds a circuit from a brief and the builder's picks. A new layout is one file and one line here."""

from tall_heron.core.layouts import return_rail

LAYOUTS = {"C1": return_rail}
