"""85 requests that no page would send (`make fuzz`: thousands), and some that one would: nothing
falls over, nothing of the language shows, every refusal names its field.
"""

from random import Random

import pytest
from flask import Flask
from hostile import Visitor


@pytest.mark.parametrize("seed", range(1, 2))
def test_nothing_falls_over(app: Flask, seed: int) -> None:
    app.config["PROPAGATE_EXCEPTIONS"] = False
    visitor = Visitor(app, Random(seed))
    for _ in range(85):
        visitor.once()
    assert visitor.wrong == []
    assert visitor.counts.get(200, 0) > 20
    assert visitor.counts.get(422, 0) > 20
