"""Ledgers that this user had open, the newest first."""

from pathlib import Path

from plucky_ledger.ui.theme import settings

KEY = "ledgers"
MOST = 6


def recent_ledgers() -> list[Path]:
    """Those that are still there."""
    kept = settings().value(KEY) or []
    named = [kept] if isinstance(kept, str) else list(kept)
    return [path for path in map(Path, map(str, named)) if path.is_file()][:MOST]


def remember_ledger(path: Path) -> None:
    """It is the newest."""
    known = [other for other in recent_ledgers() if other != path]
    settings().setValue(KEY, [str(path), *map(str, known)][:MOST])
