"""Runs all tests (or those named) and ends with one line: N passed, N failed.

Without names, three processes side by side (windows wait now and then) take one module after the
other, those that took longest first (`durations.json`, written anew with --time). One that dies
counts as a failure of the module it was in, and another goes on with the rest.
"""

import json
import os
import shutil
import subprocess
import sys
import tempfile
import threading
import time
import unittest
from pathlib import Path
from typing import NamedTuple

ROOT = Path(__file__).resolve().parent.parent
DURATIONS = Path(__file__).with_name("durations.json")
SIDE_BY_SIDE = 3
MEMORY_DISK, ENOUGH_BYTES = Path("/dev/shm"), 4 << 30


class Outcome(NamedTuple):
    passed: int
    failed: int
    skipped: int = 0


def main(words: list[str]) -> int:
    if words == ["--serve"]:
        return serve()
    if not words or words == ["--time"]:
        return run_all(keep_durations=bool(words))
    return close(run_here(words))


def run_here(names: list[str]) -> Outcome:
    suite = unittest.TestLoader().loadTestsFromNames(names)
    result = unittest.TextTestRunner(stream=sys.stderr, verbosity=1).run(suite)
    failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    skipped = len(result.skipped)
    sys.stderr.flush()
    return Outcome(result.testsRun - failed - skipped, failed, skipped)


def serve() -> int:
    """One of the processes side by side: a module's name comes in, its outcome goes out."""
    answers = sys.stdout
    sys.stdout = sys.stderr  # what a test prints is no answer
    for line in sys.stdin:
        print(json.dumps(run_here([line.strip()])), file=answers, flush=True)
    return 0


class Sharing:
    """The modules that wait, and what became of those that ran."""

    def __init__(self, waiting: list[str]) -> None:
        self._waiting = waiting
        self._lock = threading.Lock()
        self.outcomes: list[Outcome] = []
        self.took: dict[str, float] = {}

    def next(self) -> str | None:
        with self._lock:
            return self._waiting.pop(0) if self._waiting else None

    def ran(self, module: str, outcome: Outcome, seconds: float) -> None:
        with self._lock:
            self.outcomes.append(outcome)
            self.took[module] = round(seconds, 1)


def run_all(*, keep_durations: bool) -> int:
    sharing = Sharing(longest_first(modules()))
    with tempfile.TemporaryDirectory(prefix="kettle-films-") as films:
        around = surroundings(films)
        hands = [
            threading.Thread(target=work_off, args=(sharing, around)) for _ in range(SIDE_BY_SIDE)
        ]
        for hand in hands:
            hand.start()
        for hand in hands:
            hand.join()
    if keep_durations:
        DURATIONS.write_text(json.dumps(sharing.took, indent=1, sort_keys=True) + "\n")
    return close(Outcome(*(sum(counts) for counts in zip(*sharing.outcomes, strict=True))))


def modules() -> list[str]:
    return [
        ".".join(file.relative_to(ROOT).with_suffix("").parts)
        for file in (ROOT / "tests").rglob("test_*.py")
    ]


def longest_first(names: list[str]) -> list[str]:
    """By what they took when durations were last kept; one that is new begins."""
    took = json.loads(DURATIONS.read_text())
    return sorted(names, key=lambda name: (-took.get(name, float("inf")), name))


def work_off(sharing: Sharing, around: dict[str, str]) -> None:
    process = None
    while module := sharing.next():
        process = process or another_process(around)
        assert process.stdin and process.stdout
        began = time.monotonic()
        process.stdin.write(module + "\n")
        process.stdin.flush()
        answer = process.stdout.readline()
        if not answer:
            print(f"\n{module}: its process died with code {process.wait()}.", file=sys.stderr)
            process = None
        outcome = Outcome(*json.loads(answer)) if answer else Outcome(0, 1)
        sharing.ran(module, outcome, time.monotonic() - began)
    if process:
        process.communicate()


def another_process(around: dict[str, str]) -> subprocess.Popen[str]:
    return subprocess.Popen(
        [sys.executable, "-X", "faulthandler", "-m", "tests", "--serve"],
        cwd=ROOT,
        env=around,
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        text=True,
    )


def surroundings(films: str) -> dict[str, str]:
    """Of the processes: they share rendered films, may keep what is compiled (the helpers that tests start
    by the dozen would each compile the program anew), and wait for no disk where memory can be one."""
    kept = {key: value for key, value in os.environ.items() if key != "PYTHONDONTWRITEBYTECODE"}
    if MEMORY_DISK.is_dir() and shutil.disk_usage(MEMORY_DISK).free > ENOUGH_BYTES:
        kept.setdefault("TMPDIR", str(MEMORY_DISK))
    return {**kept, "KETTLE_TEST_FILMS": films}


def close(outcome: Outcome) -> int:
    passed, failed, skipped = outcome
    print(f"{passed} passed, {failed} failed" + (f", {skipped} skipped" if skipped else ""))
    return 1 if failed or passed == 0 else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
