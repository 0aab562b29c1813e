"""One sparse factorisation behind one small interface.

SciPy's SuperLU by default; PyPardiso where the extra `empuje[fast]` is installed.

    >>> solve = factorise(sparse.csc_matrix([[2.0, 0.0], [0.0, 4.0]]))
    >>> solve(np.array([2.0, 2.0])).tolist()
    [1.0, 0.5]
"""

from __future__ import annotations

import os
import weakref
from collections.abc import Callable
from importlib.metadata import PackageNotFoundError, files
from importlib.util import find_spec

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

Floats = NDArray[np.float64]
Solve = Callable[[Floats], Floats]


class SingularError(ArithmeticError):
    """The matrix has no inverse."""


def backend() -> str:
    """The library that factorises: "pypardiso" where installed, else "scipy". EMPUJE_SOLVER names one outright."""
    wish = os.environ.get("EMPUJE_SOLVER", "")
    if wish in ("scipy", "pypardiso"):
        return wish
    return "pypardiso" if find_spec("pypardiso") else "scipy"


def factorise(matrix: sparse.csc_matrix) -> Solve:
    """Factorise a symmetric matrix; the returned function solves for one right-hand side or a block of them.

    Raises SingularError where a pivot vanishes.
    """
    return _pardiso(matrix) if backend() == "pypardiso" else _superlu(matrix)


def _superlu(matrix: sparse.csc_matrix) -> Solve:
    from scipy.sparse.linalg import splu

    try:
        lu = splu(
            matrix.tocsc(), permc_spec="MMD_AT_PLUS_A", diag_pivot_thresh=0.0, options={"SymmetricMode": True}
        )  # a symmetric positive matrix needs no pivoting
    except RuntimeError as error:
        raise SingularError(str(error)) from error
    return lu.solve


def _spare_the_search() -> None:
    """Tell PyPardiso where its library is: left to itself it walks through every installed file."""
    if "PYPARDISO_MKL_RT" in os.environ:
        return
    try:
        found = [f for f in files("mkl") or [] if "mkl_rt" in f.name and not f.name.endswith(".lib")]
    except PackageNotFoundError:
        return
    if found:
        os.environ["PYPARDISO_MKL_RT"] = str(found[0].locate())


def _pardiso(matrix: sparse.csc_matrix) -> Solve:
    try:
        from pypardiso import PyPardisoSolver
    except (ImportError, OSError):  # installed, but its library does not load on this machine
        return _superlu(matrix)
    _spare_the_search()
    # Type 2 is symmetric positive definite and wants the upper half; what is not positive definite fails with -4.
    solver = PyPardisoSolver(mtype=2)
    upper = sparse.csr_matrix(sparse.triu(matrix, format="csr"))
    upper.sort_indices()
    try:
        solver.factorize(upper)
    except Exception as error:
        raise SingularError(str(error)) from error

    def solve(right: Floats) -> Floats:
        return np.asarray(solver.solve(upper, np.asfortranarray(right))).reshape(right.shape)

    # The factors lie outside Python's memory and would stay there.
    weakref.finalize(solve, solver.free_memory, everything=True)
    return solve
