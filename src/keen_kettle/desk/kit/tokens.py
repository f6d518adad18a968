"""Every colour and size of the interface; no other file names a colour."""

from dataclasses import dataclass

__all__ = ["DAYLIGHT", "DUSK", "SIZES", "STEP", "Tokens", "contrast"]

STEP = 4
"""Spacing goes in steps of this many pixels."""
SIZES = {"small": 12, "text": 14, "lead": 17, "title": 22, "figure": 34}


@dataclass(frozen=True)
class Tokens:
    """One theme. Pairs that carry text are checked for a contrast of 4.5 by a test."""

    name: str
    ground: str
    raised: str
    edge: str
    ink: str
    quiet: str
    brass: str
    on_brass: str
    chalk: str
    sage: str
    ember: str
    signal: str
    shade: str
    flesh: str


DUSK = Tokens(
    name="dusk",
    ground="#1C2126",
    raised="#262D33",
    edge="#3A444C",
    ink="#F1EEE5",
    quiet="#A8B0B4",
    brass="#DDA544",
    on_brass="#1C2126",
    chalk="#86B8DE",
    sage="#93C28E",
    ember="#E58258",
    signal="#F0747E",
    shade="#12161A",
    flesh="#CDA88E",
)

DAYLIGHT = Tokens(
    name="daylight",
    ground="#F5F2EA",
    raised="#FFFFFF",
    edge="#D9D3C5",
    ink="#20262A",
    quiet="#5D666B",
    brass="#8F630E",
    on_brass="#FFFFFF",
    chalk="#2A6A9C",
    sage="#3E7A3A",
    ember="#B4491E",
    signal="#A81E2C",
    shade="#E7E2D6",
    flesh="#C79C80",
)


def contrast(a: str, b: str) -> float:
    """Contrast ratio of two colours, 1 to 21 (WCAG 2 relative luminance)."""

    def luminance(colour: str) -> float:
        parts = [int(colour[k : k + 2], 16) / 255 for k in (1, 3, 5)]
        linear = [p / 12.92 if p <= 0.04045 else ((p + 0.055) / 1.055) ** 2.4 for p in parts]
        return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]

    high, low = sorted((luminance(a), luminance(b)), reverse=True)
    return (high + 0.05) / (low + 0.05)
