"""Files that come in and go out: recordings, statements, tables and pictures."""
