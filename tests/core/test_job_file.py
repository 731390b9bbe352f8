"""The open job file and the shell: what is written is read, and answers are the same everywhere."""

import json
import subprocess
import sys
from pathlib import Path

import jsonschema
import pytest
from tests.core.told import CONDENSER, METER, amps, answer, seen, spot

from zesty_copper.core.diagnosis.model.job import Job, Scope, SupplySheet
from zesty_copper.core.errors import BadInput
from zesty_copper.core.ratings.inputs.from_circuit import sheets_of
from zesty_copper.core.ratings.inputs.sheet import Plate, Use
from zesty_copper.files.job_file import MAX_BYTES, job_schema, read_job, write_job

READINGS = (*spot("whip", 222.6, 121.0, 101.7), amps("L1", "whip", 18.2))
LOOKS = (seen("hums"), seen("mark", "clip_load", "L2"))
JOB = Job(circuit=CONDENSER, readings=READINGS, looks=LOOKS, scope=Scope(panel_may_be_opened=True, tools=METER))


def shell(*arguments: str, text: str = "") -> subprocess.CompletedProcess[str]:
    """Run the command as a user would."""
    command = [str(Path(sys.executable).with_name("zesty-copper")), *arguments]
    return subprocess.run(command, input=text, capture_output=True, text=True, check=False, timeout=60)


def test_what_is_written_is_read_and_fits_the_published_schema() -> None:
    text = write_job(JOB)
    assert read_job(text).job == JOB
    published = json.loads((Path(__file__).parents[2] / "docs" / "job.schema.json").read_text("utf-8"))
    assert published == job_schema()
    jsonschema.validate(json.loads(text), published)


def test_the_shell_gives_every_suspect_and_the_next_test_as_json(tmp_path: Path) -> None:
    path = tmp_path / "job.json"
    path.write_text(write_job(JOB), "utf-8")
    told = json.loads(shell("diagnose", str(path), "--json").stdout)
    same = answer(*READINGS, panel=True, looks=LOOKS).model_dump(mode="json")
    assert [s["key"] for s in told["suspects"]] == [s["key"] for s in same["suspects"]]
    assert {"probability", "part", "leg", "kind"} <= told["suspects"][0].keys()
    assert told["next_test"]["predictions"]
    assert sum(s["probability"] for s in told["suspects"]) == pytest.approx(1)


def test_the_shell_says_it_in_words_and_prints_the_schema() -> None:
    said = shell("diagnose", "-", text=write_job(JOB))
    assert said.returncode == 0
    assert "High-resistance connection on L2" in said.stdout
    assert "Next test" in said.stdout
    assert json.loads(shell("schema").stdout) == job_schema()


def test_the_shell_rates_what_was_entered_against_what_was_read() -> None:
    """230 V on a plate of 208 V: 222.6 V is within 187 to 253; MCA 41 is more than 8 AWG at 60 °C carries."""
    plate = Plate(use=Use.COMPRESSOR, mca_amps=41, mocp_amps=40, least_volts=208, most_volts=230)
    sheet = sheets_of(CONDENSER)["supply"]
    runs = tuple(run.model_copy(update={"terminals_c": 60, "insulation": "THHN"}) for run in sheet.runs)
    entered = SupplySheet(source="supply", sheet=sheet.model_copy(update={"plate": plate, "runs": runs}))
    text = write_job(JOB.model_copy(update={"sheets": (entered,)}))
    lines = shell("rate", "-", text=text).stdout.splitlines()
    assert lines[0].startswith("not met      Wire ampacity for the load, branch wires: 8 AWG copper")
    assert any("MOCP 40 A must not be less than MCA 41 A" in line for line in lines)
    assert any(line.startswith("met") and "222.6 V; 187.2 V at least" in line for line in lines)
    told = json.loads(shell("rate", "-", "--json", text=text).stdout)
    assert told["supply"][0]["required"]["steps"][-1]["value"] == 41


@pytest.mark.parametrize(
    ("spoil", "field"),
    [
        (lambda told: told["readings"][0].update(value=-1), "readings.0.value"),
        (lambda told: told["readings"][0].update(unit="A"), "readings.0.unit"),
        (
            lambda told: told["readings"][1]["measurement"]["place"].update(a="L1@roof"),
            "readings.1.measurement.place.a",
        ),
        (lambda told: told.update(format="another/1"), "format"),
        (lambda told: told["circuit"]["parts"][0].update(colour="red"), "circuit.parts.0.colour"),
    ],
)
def test_a_spoilt_file_gets_one_sentence_and_its_field(spoil: object, field: str) -> None:
    told = json.loads(write_job(JOB))
    assert callable(spoil)
    spoil(told)
    with pytest.raises(BadInput) as caught:
        read_job(json.dumps(told))
    assert caught.value.field == field
    failed = shell("diagnose", "-", text=json.dumps(told))
    assert failed.returncode == 1
    assert failed.stderr.count("\n") == 1
    assert field in failed.stderr


def test_not_json_too_large_and_missing_files_are_refused() -> None:
    for text in ("nonsense", "x" * (MAX_BYTES + 1)):
        with pytest.raises(BadInput):
            read_job(text)
    missing = shell("diagnose", "no-such-file.json")
    assert missing.returncode == 1
    assert "cannot read no-such-file.json" in missing.stderr
