"""The recording file: an open format of one JSON object a line. See docs/formats/recording.md."""
