"""Screen: athletes, class lists, screening, fit."""
