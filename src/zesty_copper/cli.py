"""The same core from a shell: `zesty-copper diagnose` and `rate JOB.json [--json]`, `zesty-copper schema`."""

import argparse
import json
import sys
from pathlib import Path

from zesty_copper.core.diagnosis.diagnose import diagnose
from zesty_copper.core.diagnosis.model.answer import Diagnosis, Range
from zesty_copper.core.diagnosis.model.job import Job
from zesty_copper.core.errors import ZestyError
from zesty_copper.core.observations.registry import Unit
from zesty_copper.core.observations.words import range_words
from zesty_copper.core.ratings.inputs.from_circuit import sheets_with
from zesty_copper.core.ratings.rules.check import check
from zesty_copper.files.job_file import job_schema, read_job
from zesty_copper.service.jobs import with_prior_factors

__all__ = ["main"]


def main(arguments: list[str] | None = None) -> int:
    """Run one command; the exit code is 0, or 1 with one line on standard error."""
    parser = argparse.ArgumentParser(prog="zesty-copper", description="Finds line-voltage supply faults.")
    commands = parser.add_subparsers(dest="command", required=True)
    for name, words in (("diagnose", "diagnose a job file"), ("rate", "judge a job file's circuit by the ratings")):
        command = commands.add_parser(name, help=words)
        command.add_argument("job", type=Path, help="the job file, or - for standard input")
        command.add_argument("--json", action="store_true", help="print everything as JSON")
    commands.add_parser("schema", help="print the JSON Schema of the job file")
    chosen = parser.parse_args(arguments)
    if chosen.command == "schema":
        print(json.dumps(job_schema(), indent=2))
        return 0
    try:
        text = sys.stdin.buffer.read() if str(chosen.job) == "-" else chosen.job.read_bytes()
        job = read_job(text).job
        if chosen.command == "rate":
            print("\n".join(_rated(job, as_json=chosen.json)))
            return 0
        diagnosis = diagnose(with_prior_factors(job))
    except OSError as error:
        print(f"zesty-copper: cannot read {chosen.job}: {error.strerror}.", file=sys.stderr)
        return 1
    except ZestyError as error:
        field = f"{error.field}: " if error.field else ""
        print(f"zesty-copper: {field}{error.message}", file=sys.stderr)
        return 1
    print(diagnosis.model_dump_json(indent=2) if chosen.json else "\n".join(_lines(diagnosis)))
    return 0


def _rated(job: Job, *, as_json: bool) -> list[str]:
    """Every finding, what can hurt somebody first."""
    entered = {each_sheet.source: each_sheet.sheet for each_sheet in job.sheets}
    rated = {source: check(sheet) for source, sheet in sheets_with(job.circuit, entered, job.readings).items()}
    if as_json:
        printed = {source: [finding.model_dump(mode="json") for finding in found] for source, found in rated.items()}
        return [json.dumps(printed, indent=2)]
    return [
        f"{finding.status.replace('_', ' '):12} {finding.label}, {finding.about}: {finding.words} ({finding.source})"
        for findings in rated.values()
        for finding in findings
    ]


def _lines(diagnosis: Diagnosis) -> list[str]:
    verdict = diagnosis.verdict
    stop = diagnosis.stop
    lines = [f"{stop.title.upper()}. {stop.words}", f"Clears it: {stop.clears}", ""] if stop else []
    lines += [f"{verdict.words} ({verdict.probability:.0%})", verdict.advice, ""]
    for suspect in diagnosis.suspects[:6]:
        lines.append(f"{suspect.probability:6.1%}  {suspect.words}")
        lines += [f"          {item.stance}: {item.words}" for item in suspect.evidence if item.stance != "neutral"]
    for contradiction in diagnosis.contradictions:
        lines += ["", f"! {contradiction.words}"]
    for guard in diagnosis.guards:
        lines += ["", f"? {guard.words} {guard.check}"]
    if test := diagnosis.next_test:
        lines += ["", f"Next test ({test.minutes:.1f} min; {test.state}):", *(f"  set {step}" for step in test.steps)]
        lines += [f"  measure {words}" for words in test.words]
        for predicted in test.predictions:
            shown = " · ".join(
                " or ".join(_range(each_range, m.unit) for each_range in ranges)
                for ranges, m in zip(predicted.ranges, test.measurements, strict=True)
            )
            lines.append(f"    {shown}: {'; '.join(predicted.words)}")
        lines.append(f"  {test.caution}")
    return lines


def _range(shown: Range, unit: Unit) -> str:
    return range_words(shown.low, shown.high, unit)
