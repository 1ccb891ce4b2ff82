"""The use cases both front ends call, and the pages they show. No screen, no terminal."""
