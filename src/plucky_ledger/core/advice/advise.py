"""All rules held against one PC's evidence, and the findings in the order they deserve."""

from plucky_ledger.core.advice.evidence import Evidence
from plucky_ledger.core.advice.finding import Finding
from plucky_ledger.core.advice.hardware import hardware_findings
from plucky_ledger.core.advice.rules import EFFORT_COUNTS, RULES
from plucky_ledger.core.advice.starting import starting_findings
from plucky_ledger.core.advice.upkeep import upkeep_findings


def advise(evidence: Evidence) -> tuple[Finding, ...]:
    """Everything found, what wins most for what it takes first; empty for a PC that is fine."""
    found = [
        *hardware_findings(evidence),
        *upkeep_findings(evidence),
        *starting_findings(evidence),
    ]
    return tuple(sorted(found, key=lambda finding: (-worth(finding), finding.rule)))


def worth(finding: Finding) -> float:
    """Seconds it wins, or counts as where nothing can tell, for what it takes."""
    saves = finding.saves
    seconds = saves.value if saves is not None else RULES[finding.rule].weight
    return seconds / EFFORT_COUNTS[finding.effort]
