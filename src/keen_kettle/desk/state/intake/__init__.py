"""How films come in."""
