"""Armed recording: what starts the recorder, its own copy, restarting."""
