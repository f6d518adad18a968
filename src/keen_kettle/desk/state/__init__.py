"""Models: what is shown, with no widget."""
