"""Installs the path tracer beside nothing of the program's, and has it make gold clips or halls."""

import os
import subprocess
import sys
import tempfile
from pathlib import Path

__all__ = ["TRACED_BY", "trace_gold", "trace_halls"]

TRACED_BY = ("mitsuba==3.9.1", "drjit==1.5.0")
OLDEST_LLVM = 19
ROOT = Path(__file__).resolve().parents[2]


def trace_gold() -> None:
    """Make the clips that are missing: some minutes each, about twice as long without the compiler library."""
    _run("bench.gold.make")


def trace_halls() -> None:
    """Make the halls of the quick painter anew: two minutes each."""
    _run("bench.gold.stills")


def _run(module: str) -> None:
    with tempfile.TemporaryDirectory() as room:
        ask = [sys.executable, "-m", "pip", "install", "--quiet", "--no-deps", "--target", room]
        subprocess.run([*ask, *TRACED_BY], check=True)
        variant, around = "scalar_rgb", dict(os.environ)
        library = _compiler_library()
        if library is not None:
            variant, around["DRJIT_LIBLLVM_PATH"] = "llvm_ad_rgb", str(library)
        paths = [room, str(ROOT), str(ROOT / "src"), around.get("PYTHONPATH", "")]
        around["PYTHONPATH"] = os.pathsep.join(path for path in paths if path)
        subprocess.run([sys.executable, "-m", module, variant], cwd=ROOT, env=around, check=True)


def _compiler_library() -> Path | None:
    """The system's LLVM, new enough to trace with (Debian: libllvm19)."""
    for path in sorted(Path("/usr/lib").glob("*/libLLVM-*.so"), reverse=True):
        number = path.stem.removeprefix("libLLVM-")
        if number.isdigit() and int(number) >= OLDEST_LLVM:
            return path
    return None
