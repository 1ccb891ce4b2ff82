"""Values with fields, anew."""

from dataclasses import replace

__all__ = ["replace"]
