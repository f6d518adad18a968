"""Review: the film with what was measured on it."""
