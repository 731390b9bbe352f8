"""Writes what is generated from the code, or with `--check` says whether it is current.

The files' JSON Schemas in docs/, the front end's types from the OpenAPI description, what it knows of the kinds of
observation, and the points by which the
diagnosis spreads its samples: SciPy makes them here, since to load its statistics takes a second of every start.
"""

import json
import subprocess
import sys
import tempfile
from pathlib import Path

import numpy as np
from scipy.stats import qmc

from zesty_copper.api.app import create_app
from zesty_copper.core.diagnosis.predict.nuisance import SAMPLES
from zesty_copper.core.observations.modes import LIMIT_OHM
from zesty_copper.core.observations.registry import OBSERVATIONS
from zesty_copper.files.firm_file import firm_schema
from zesty_copper.files.job_file import job_schema
from zesty_copper.launch.places import CHECKOUT

DOCS = CHECKOUT / "docs"
TYPES = CHECKOUT / "web" / "src" / "api" / "schema.gen.ts"
KINDS = CHECKOUT / "web" / "src" / "api" / "observations.gen.ts"
SOBOL = CHECKOUT / "src" / "zesty_copper" / "core" / "diagnosis" / "predict" / "sobol.csv"


def main() -> int:
    """Write, or with --check compare and return 1 where something is stale."""
    fresh = {
        DOCS / "job.schema.json": json.dumps(job_schema(), indent=2) + "\n",
        DOCS / "firm.schema.json": json.dumps(firm_schema(), indent=2) + "\n",
        TYPES: _types(),
        KINDS: _kinds(),
        SOBOL: _sobol(),
    }
    stale = [path for path, text in fresh.items() if not path.exists() or path.read_text("utf-8") != text]
    if "--check" in sys.argv:
        for path in stale:
            print(
                f"{path.relative_to(CHECKOUT)} is stale: run python -m zesty_copper.launch.generated", file=sys.stderr
            )
        return 1 if stale else 0
    for path in stale:
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(fresh[path], "utf-8")
    return 0


def _sobol() -> str:
    """A point a line in nine dimensions, of a scrambled Sobol sequence (scipy.stats.qmc)."""
    # The seed only picks one of many equally good scramblings: answers must not change from one run to the next.
    points = qmc.Sobol(9, scramble=True, rng=np.random.default_rng(8420)).random(SAMPLES)
    return "".join(",".join(map(repr, point)) + "\n" for point in points.tolist())


def _kinds() -> str:
    """What pages need to know of the kinds of observation: how each is chosen and picked, its unit, its words."""
    kinds = {
        kind.kind: {
            "unit": kind.unit,
            "label": kind.label,
            "says": kind.says,
            "picks": kind.picks,
            "touch": kind.touch[0],
            "missing": kind.touch[1],
        }
        for kind in OBSERVATIONS
        if kind.picks is not None
    }
    units = {
        kind.unit: {
            "sign": kind.sign,
            "after": kind.after,
            "asks": kind.asks,
            "values": [{"value": value, "words": words} for value, words in kind.value_names.items()],
        }
        for kind in OBSERVATIONS
    }
    return "".join(
        f"{says}\nexport const {name} = {json.dumps(table, indent=2, ensure_ascii=False)} as const\n\n"
        for name, table, says in (
            (
                "KINDS",
                kinds,
                "/** What is read by something beside two probes, by its kind of place. Generated: do not edit. */",
            ),
            ("UNITS", units, "/** How each unit is said, and the values of what is no number. */"),
            ("OL_OHM", LIMIT_OHM, "/** Where a meter shows OL [ohm]. */"),
        )
    )


def _types() -> str:
    """TypeScript types of the API, made by openapi-typescript."""
    with tempfile.TemporaryDirectory() as folder:
        description, out = Path(folder) / "openapi.json", Path(folder) / "schema.gen.ts"
        description.write_text(json.dumps(create_app(None).openapi()), "utf-8")
        command: list[str | Path] = [
            CHECKOUT / "web/node_modules/.bin/openapi-typescript",
            description,
            "-o",
            out,
            "--root-types",
            "--root-types-no-schema-prefix",
        ]
        subprocess.run(command, check=True, capture_output=True)
        return out.read_text("utf-8")


if __name__ == "__main__":
    sys.exit(main())
