"""Tokens, theme, words and builders; knows no model."""
