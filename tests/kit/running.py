"""The application in a process of its own."""

import re
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path


class App:
    """A running application: its address and its data folder."""

    def __init__(self, address: str, folder: Path) -> None:
        self.address, self.folder = address, folder


def start(
    folder: Path, how: str = "demo", port: int = 0, more: tuple[str, ...] = ()
) -> tuple[subprocess.Popen[str], App]:
    command = [
        *(sys.executable, "-m", "tall_heron", how, "--port", str(port), "--data", str(folder)),
        *more,
    ]
    process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
    assert process.stdout
    line = process.stdout.readline()
    found = re.search(r"http://\S+?/", line)
    assert found, line
    return process, App(found.group(0), folder)


def stop(process: subprocess.Popen[str]) -> None:
    process.terminate()
    process.wait()
    assert process.stdout
    process.stdout.close()


def run_in(folder: Path, how: str = "demo") -> Iterator[App]:
    """It runs while the caller is not done."""
    process, app = start(folder, how)
    try:
        yield app
    finally:
        stop(process)
