"""Inverting a small symmetric matrix in compiled code."""

import numpy as np
from numba import njit
from numpy.typing import NDArray

__all__ = ["invert"]


@njit(cache=True, nogil=True, error_model="numpy")
def invert(matrix: NDArray[np.float64], size: int) -> float:
    """Invert a symmetric positive matrix in place by sweeping, and return the logarithm of its determinant [nat].

    Sweep operator (Goodnight, The American Statistician 33 (1979) 149-158, from memory); no pivoting is needed.
    """
    log_determinant = 0.0
    for k in range(size):
        pivot = matrix[k, k]
        log_determinant += np.log(pivot)
        matrix[k, k] = 1.0
        for j in range(size):
            matrix[k, j] /= pivot
        for i in range(size):
            if i != k:
                share = matrix[i, k]
                if share != 0.0:
                    matrix[i, k] = 0.0
                    for j in range(size):
                        matrix[i, j] -= share * matrix[k, j]
    return log_determinant
