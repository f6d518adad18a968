"""One file a station of the loop: Film, Review, Prescribe, Record."""
