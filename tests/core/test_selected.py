"""Entries of the inverse without solving: against columns solved for, and the bound on their rounding against both."""

import numpy as np
import pytest

from zesty_copper.core.circuit.point import Point
from zesty_copper.core.circuit.reachable import reachable_states
from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.network.netlist import build_netlist
from zesty_copper.core.network.selected import meeting, selected_inverse
from zesty_copper.core.network.solve import nominal, solve


@pytest.mark.parametrize("key", ready_made())
def test_every_entry_is_right_within_its_own_bound(key: str) -> None:
    circuit = ready_made()[key]
    for opened in reachable_states(circuit):
        solved = solve(build_netlist(circuit), nominal(bonded=True), opened)
        size, slots = solved.elimination.size, solved.factors.shape[1]
        inverse, doubt = np.zeros(slots + 1, dtype=complex), np.zeros(slots + 1)
        selected_inverse(solved.factors[0], solved.elimination.program, inverse, doubt)
        everything = np.arange(size)
        columns = solved.columns(everything)[0][:, :size]  # a row of it is a column of the inverse
        place, slot = zip(*solved.elimination.slot.items(), strict=True)
        row, column = np.array(place).T
        off = np.abs(inverse[list(slot)] - columns[row, column])
        rounding = 1e-12 * np.abs(columns[row, column])  # what the columns themselves may be off by
        assert (off <= doubt[list(slot)] + rounding).all()
        # What carries current is known well; behind an open gap the bound says that it is not.
        assert (doubt[list(slot)] < 1e-6 * np.abs(columns[row, row])).mean() > 0.5


def test_ends_that_are_apart_are_not_spoken_of() -> None:
    circuit = ready_made()["condenser_fused"]
    solved = solve(build_netlist(circuit), nominal(bonded=True), frozenset())
    elimination, netlist = solved.elimination, solved.netlist
    inverse, doubt = np.zeros(solved.factors.shape[1] + 1, dtype=complex), np.zeros(solved.factors.shape[1] + 1)
    selected_inverse(solved.factors[0], elimination.program, inverse, doubt)
    ends = [netlist.point_row(Point(point)) for point in ("L1@panel_lug", "L1@whip", "L2@whip")]
    apart, together = elimination.met_at(np.array([ends[0], ends[1]]), np.array([ends[1], ends[2]])).T
    assert np.isinf(meeting(inverse, doubt, apart)[1])
    ohm, off = meeting(inverse, doubt, together)
    column = solved.columns(np.array([ends[1]]), np.array([ends[2]]))[0, 0]
    assert ohm == pytest.approx(column[ends[1]] - column[ends[2]], rel=1e-9)
    assert off < 1e-6 * abs(ohm)
