"""Instants that can be shown wherever they are read: no zone takes them out of the calendar."""

FIRST_YEAR, LAST_YEAR = 1970, 9000
