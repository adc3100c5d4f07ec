"""What the application loads before its first answer: a list that no package joins unseen."""

import subprocess
import sys

SCRIPT = """
import sys
import tall_heron.web.server
from tall_heron.web.station import all_stations
all_stations()
print("\\n".join(sorted(sys.modules)))
"""
ALLOWED = {  # packages beyond the standard library, each with what cannot be done without it
    "annotated_types": "pydantic",
    "blinker": "flask",
    "click": "the command line",
    "flask": "pages",
    "flask_wtf": "tokens of forms",
    "flexcache": "pint",
    "flexparser": "pint",
    "itsdangerous": "flask",
    "jinja2": "pages",
    "markupsafe": "pages",
    "numpy": "pint, and what is laid out",
    "pint": "units",
    "platformdirs": "pint",
    "pydantic": "documents",
    "pydantic_core": "documents",
    "scipy": "its name alone, which pint asks for",
    "tall_heron": "ourselves",
    "typing_extensions": "pydantic",
    "typing_inspection": "pydantic",
    "waitress": "the server",
    "werkzeug": "flask",
    "wtforms": "flask_wtf",
}
LATER = ("scipy.sparse", "scipy.spatial", "scipy.optimize", "scipy.ndimage", "scipy.interpolate")


def test_what_is_loaded_before_the_first_answer() -> None:
    done = subprocess.run(
        [sys.executable, "-c", SCRIPT], capture_output=True, text=True, check=True
    )
    loaded = done.stdout.split()
    of_others = {
        top
        for name in loaded
        if (top := name.partition(".")[0]) not in sys.stdlib_module_names
        and not top.startswith(("_", "cython"))
    }
    assert of_others <= set(ALLOWED)
    assert not [name for name in loaded if name.startswith(LATER)]
