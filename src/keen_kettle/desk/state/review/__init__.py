"""The open film and everything worked out from it."""
