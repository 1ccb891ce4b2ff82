"""Small drawn signs, all in one stroke weight."""

STROKE = 1.4
