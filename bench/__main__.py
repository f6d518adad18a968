"""Runs the benchmarks and prints their report as Markdown: `./kettle bench [accuracy] [body] [speed] [window] [teach] [prescribe] [records] [eye] [faults]`.

`./kettle bench plate-judge` trains the judge of plates anew instead, `./kettle bench rim-reader` the reader of
rims, `./kettle bench misreadings` what is known of the pose model's errors, `./kettle bench gold` traces the
gold clips that are missing, and `./kettle bench halls` the painter's halls; these are not among the rest.
"""

import sys
from collections.abc import Callable

from bench.accuracy import report_accuracy
from bench.body import report_body
from bench.eye import report_eye
from bench.faults import report_faults
from bench.gold.trace import trace_gold, trace_halls
from bench.misreadings import report_misreadings
from bench.plate_judge import report_plate_judge
from bench.prescribe import report_prescribe
from bench.records import report_records
from bench.rim_reader import report_rim_reader
from bench.speed import report_speed
from bench.teach import report_teach
from bench.window import report_window

REPORTS: dict[str, Callable[[], None]] = {
    "accuracy": report_accuracy,
    "body": report_body,
    "speed": report_speed,
    "window": report_window,
    "teach": report_teach,
    "prescribe": report_prescribe,
    "records": report_records,
    "eye": report_eye,
    "faults": report_faults,
}

MAKINGS: dict[str, Callable[[], None]] = {
    "plate-judge": report_plate_judge,
    "rim-reader": report_rim_reader,
    "misreadings": report_misreadings,
    "gold": trace_gold,
    "halls": trace_halls,
}


def main(names: list[str]) -> int:
    known = REPORTS | MAKINGS
    unknown = [name for name in names if name not in known]
    if unknown:
        print(f"Unknown: {', '.join(unknown)}. There are {', '.join(known)}.", file=sys.stderr)
        return 2
    for name in names or list(REPORTS):
        known[name]()
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
