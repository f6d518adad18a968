"""Two lifts beside each other."""
