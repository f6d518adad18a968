"""One widget, one job; each is shown what a model holds and says what the coach wants."""
