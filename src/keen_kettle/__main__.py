"""The program's door: chooses the command; without one, opens the window on the coach's own data."""

import argparse
import sys
from pathlib import Path

from keen_kettle import __version__
from keen_kettle.commands import analyse, prescribe, render, teach

__all__ = ["main"]


def main(arguments: list[str] | None = None) -> int:
    words = _grammar().parse_args(arguments)
    return int(words.run(words))


def _grammar() -> argparse.ArgumentParser:
    grammar = argparse.ArgumentParser(
        prog="kettle",
        description="Measures lift video, finds the cause, prescribes the corrective.",
    )
    grammar.add_argument("--version", action="version", version=f"Keen Kettle {__version__}")
    commands = grammar.add_subparsers(title="commands", required=False)
    for name, demo, help_text in (
        ("run", False, "open the window on your own data"),
        ("demo", True, "open the window on made-up demo data"),
    ):
        words = commands.add_parser(name, help=help_text)
        _data_dir(words)
        words.set_defaults(run=_open_desk, demo=demo)
    analyse.add_words(commands)
    render.add_words(commands)
    teach.add_words(commands)
    prescribe.add_words(commands)
    words = commands.add_parser("shots", help="make docs/screenshots from the demo data")
    words.add_argument("--out", type=Path, default=Path("docs/screenshots"))
    words.set_defaults(run=_take_shots)
    _data_dir(grammar)
    grammar.set_defaults(run=_open_desk, demo=False)
    return grammar


def _data_dir(words: argparse.ArgumentParser) -> None:
    words.add_argument(
        "--data-dir", type=Path, metavar="DIR", help="where athletes, reviews and settings are kept"
    )


def _open_desk(words: argparse.Namespace) -> int:
    from keen_kettle.desk.start import open_desk

    return open_desk(words.data_dir, demo=words.demo)


def _take_shots(words: argparse.Namespace) -> int:
    from keen_kettle.desk.shots import take_shots

    return take_shots(words.out)


if __name__ == "__main__":
    sys.exit(main())
