"""The same use cases without a screen."""
