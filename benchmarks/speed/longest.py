"""Diagnose a circuit of very many parts twice, and print both times [ms] and the most memory held [MB]."""

import resource
import sys

from benchmarks.measured import seconds
from benchmarks.speed.__main__ import longest
from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.diagnosis.diagnose import diagnose
from zesty_copper.core.diagnosis.model.job import Job, Scope

if __name__ == "__main__":
    diagnose(Job(circuit=ready_made()["through_wall"]))  # what is compiled on first use is not timed
    job = Job(circuit=longest(int(sys.argv[1])), scope=Scope(panel_may_be_opened=True))
    cold, warm = seconds(lambda: diagnose(job)), seconds(lambda: diagnose(job))
    print(1e3 * cold, 1e3 * warm, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024)
