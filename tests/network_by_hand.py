"""The network as one dense matrix, stamped element by element: what the product never forms."""

import numpy as np

from zesty_copper.core.network.netlist import EARTH
from zesty_copper.core.network.solve import Solved


def system_matrix(solved: Solved) -> np.ndarray:
    """Modified nodal matrix [[Y, B], [Bᵀ, −Z]] of every sample, (samples, unknowns, unknowns)."""
    netlist, conditions = solved.netlist, solved.conditions
    n, size = len(netlist.nodes), netlist.size
    matrix = np.zeros((solved.samples, size + 1, size + 1), dtype=complex)
    for stray in netlist.strays:
        siemens = netlist.stray_siemens * stray.farad * (conditions.between if stray.between else conditions.ground)
        for row, column, sign in (
            (stray.a,) * 2 + (1,),
            (stray.b,) * 2 + (1,),
            (stray.a, stray.b, -1),
            (stray.b, stray.a, -1),
        ):
            matrix[:, row, column] += sign * siemens
    for b, branch in enumerate(netlist.listed):
        matrix[:, n + b, n + b] = -solved.impedance_ohm[:, b]
        for node, sign in ((branch.leaves, 1), (branch.enters, -1)):
            matrix[:, node, n + b] = matrix[:, n + b, node] = sign
    for b, other, ohm in solved.coupled:
        matrix[:, n + b, n + other] = -ohm
    assert EARTH == -1  # the earth's row and column are the last: cut off
    return matrix[:, :-1, :-1]


def dense_inverse(solved: Solved) -> np.ndarray:
    """Every column of the product's own inverse side by side, (samples, unknowns, unknowns)."""
    columns = solved.columns(np.arange(solved.netlist.size))
    return np.swapaxes(columns, 1, 2)[:, :-1]
