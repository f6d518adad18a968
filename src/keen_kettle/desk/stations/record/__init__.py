"""Record: the athlete's own page."""
