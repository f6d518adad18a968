"""Makes a small net anew: draws what it is taught on, trains it in an environment that is thrown away, and
puts it and its card where the program looks for them."""

import subprocess
import tempfile
import venv
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track.small_nets import WEIGHTS

__all__ = ["PORTION", "Rows", "make_net"]

PORTION, HELD_BACK_FROM = 250, 1_000_000
TRAINED_BY = ("tensorflow-cpu==2.18.0",)
ROOT = Path(__file__).parent.parent

Rows = tuple[NDArray[np.uint8], NDArray[np.float32]]
"""Crops (n, side, side, 3) and what is told of each (n, numbers)."""


def make_net(
    name: str, module: str, rows_of: Callable[[int], Rows], scenes: int, held_back: int
) -> None:
    """Train the net that `bench.<module>` describes on so many scenes; `rows_of` draws `PORTION` of them by
    the portion's number."""
    with tempfile.TemporaryDirectory() as folder:
        room = Path(folder)
        for part, first, count in (("crops", 0, scenes), ("held-back", HELD_BACK_FROM, held_back)):
            with ProcessPoolExecutor(2) as pool:
                made = list(pool.map(rows_of, range(first, first + count // PORTION)))
            crops, told = (np.concatenate([row[k] for row in made]) for k in (0, 1))
            np.savez(room / f"{part}.npz", crops=crops, told=told)
        venv.create(room / "env", with_pip=True)
        python = room / "env" / "bin" / "python"
        subprocess.run([python, "-m", "pip", "install", "--quiet", *TRAINED_BY], check=True)
        subprocess.run([python, "-m", f"bench.{module}", room], check=True, cwd=ROOT)
        for made_file in (f"{name}.tflite", f"{name}.json"):
            (WEIGHTS / made_file).write_bytes((room / made_file).read_bytes())
    print((WEIGHTS / f"{name}.json").read_text())
