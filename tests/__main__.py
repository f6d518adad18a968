"""Runs all tests (or those named) and ends with one line: N passed, N failed.

Without names, all modules run in two processes side by side, shared out so that both take about as
long; one that dies without its closing line counts as a failure.
"""

import re
import subprocess
import sys
import unittest
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
CLOSING = re.compile(r"(\d+) passed, (\d+) failed(?:, (\d+) skipped)?")


def main(names: list[str]) -> int:
    return run_here(names) if names else run_all()


def run_here(names: list[str]) -> int:
    suite = unittest.TestLoader().loadTestsFromNames(names)
    result = unittest.TextTestRunner(stream=sys.stderr, verbosity=1).run(suite)
    failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    skipped = len(result.skipped)
    sys.stderr.flush()
    return close(result.testsRun - failed - skipped, failed, skipped)


def run_all() -> int:
    found = sorted(
        ".".join(file.relative_to(ROOT).with_suffix("").parts)
        for file in (ROOT / "tests").rglob("test_*.py")
    )
    running = [
        subprocess.Popen(
            [sys.executable, "-X", "faulthandler", "-m", "tests", *names],
            cwd=ROOT,
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
            text=True,
        )
        for names in shared_out(found)
    ]
    totals = [0, 0, 0]
    for process in running:
        out, wrong = process.communicate()
        sys.stderr.write(wrong)
        closing = CLOSING.fullmatch(out.strip().splitlines()[-1] if out.strip() else "")
        counts = [int(count or 0) for count in closing.groups()] if closing else [0, 1, 0]
        if not closing:
            sys.stderr.write(f"\nA test process died with code {process.returncode}.\n")
        totals = [total + count for total, count in zip(totals, counts, strict=True)]
    sys.stderr.flush()
    return close(*totals)


def shared_out(names: list[str]) -> list[list[str]]:
    """The modules in two lists that take about as long; a window's line takes thrice another's."""

    def weight(name: str) -> int:
        lines = len((ROOT / f"{name.replace('.', '/')}.py").read_text().splitlines())
        return 3 * lines if ".desk." in name else lines

    halves: list[list[str]] = [[], []]
    for name in sorted(names, key=weight, reverse=True):
        min(halves, key=lambda half: sum(weight(one) for one in half)).append(name)
    return halves


def close(passed: int, failed: int, skipped: int) -> int:
    print(f"{passed} passed, {failed} failed" + (f", {skipped} skipped" if skipped else ""))
    return 1 if failed or passed == 0 else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
