"""What stands beside the film: the say card and what it folds away."""
