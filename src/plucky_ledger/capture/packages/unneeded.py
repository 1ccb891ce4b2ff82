"""Packages no longer needed: installed automatically with others that are gone.

Needed is what was installed on request, what is essential or required, and everything those depend
on, recommend or suggest, by whatever name it is provided.
"""

from pathlib import Path

from plucky_ledger.capture.packages.packages import ROOT, Installed, managers

NEVER = ("linux-", "firmware-")
"""Kernels are kept by rules of their own."""


def unneeded_packages(root: Path = ROOT) -> list[Installed]:
    """The largest first; nothing where the PC has no database that tells."""
    for manager in managers(root):
        installed = manager.installed()
        if installed:
            kept = manager.never_unneeded()
            asked_for = [one for one in installed if not one.by_itself or kept(one.name)]
            return _without_those_needed(installed, asked_for)
    return []


def _without_those_needed(installed: list[Installed], waiting: list[Installed]) -> list[Installed]:
    """``waiting`` are needed for sure; what they want is found from there."""
    providers: dict[str, list[Installed]] = {}
    for package in installed:
        for name in (package.name, *package.provides):
            providers.setdefault(name, []).append(package)
    needed = {package.name for package in waiting}
    while waiting:
        for wanted in waiting.pop().wants:
            for package in providers.get(wanted, ()):
                if package.name not in needed:
                    needed.add(package.name)
                    waiting.append(package)
    left = [one for one in installed if one.name not in needed and not one.name.startswith(NEVER)]
    return sorted(left, key=lambda package: (-package.size_bytes, package.name))
