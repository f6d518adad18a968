"""Who, and what is kept about them."""
