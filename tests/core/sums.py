"""Sums and findings done again, from what is printed."""

import math
import re

import pytest

from zesty_copper.core.ratings.rules.finding import Finding, Relation, Status
from zesty_copper.core.ratings.worked import Worked


def recomputed(worked: Worked) -> None:
    """Do every sum again, from what is printed."""
    for step in worked.steps:
        if not step.sum:
            continue
        text = step.sum.replace("×", "*").replace("÷", "/").replace("−", "-")
        text = re.sub(r"√\(([^)]*)\)", r"sqrt(\1)", text)
        text = re.sub(r"√(\d+(?:\.\d+)?)", r"sqrt(\1)", text)
        assert re.fullmatch(r"[\d.\s*/+\-(),a-z]+", text), step.sum
        value = eval(text, {"__builtins__": {}}, {"sqrt": math.sqrt, "min": min, "max": max, "abs": abs})
        # Numbers are printed to five digits; a difference of two of them keeps fewer.
        largest = max((float(n) for n in re.findall(r"\d+(?:\.\d+)?", step.sum)), default=1.0)
        assert step.value == pytest.approx(value, rel=1e-3, abs=2e-4 * largest), (step.sum, step.value)


def judged_again(finding: Finding) -> None:
    """Do both sums of a finding again, and compare them as it says."""
    if finding.found is None or finding.required is None:
        assert finding.status is Status.CANNOT_TELL or finding.relation is None
        return
    recomputed(finding.found)
    recomputed(finding.required)
    if finding.status is Status.MET:
        assert _compares(finding), finding
    elif finding.status is Status.CANNOT_TELL:
        assert finding.missing
    elif abs(finding.found.value - finding.required.value) > 1e-3 * abs(finding.required.value):
        assert not _compares(finding), finding


def _compares(finding: Finding) -> bool:
    assert finding.found is not None
    assert finding.required is not None
    slack = 1e-3 * abs(finding.required.value)
    if finding.relation is Relation.AT_LEAST:
        return finding.found.value >= finding.required.value - slack
    return finding.found.value <= finding.required.value + slack
