"""Boards, visits, try-outs."""
