"""Path-traced clips with exact truth, kept beside the command that makes them; and what traces halls."""

from bench.gold.clips import GOLD, GoldClip

__all__ = ["GOLD", "GoldClip"]
