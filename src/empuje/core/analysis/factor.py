"""One sparse factorisation behind one small interface.

SciPy's SuperLU by default; PyPardiso where the extra `empuje[fast]` is installed.

    >>> solve = factorise(sparse.csr_matrix([[4.0, 0.0], [0.0, 16.0]]))
    >>> solve(np.array([4.0, 8.0])).tolist()
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


LIBRARIES = ("scipy", "pypardiso")
CHOICE = "EMPUJE_SOLVER"


class NoSuchLibraryError(ValueError):
    """EMPUJE_SOLVER names a library that is none of ours, or is not installed."""


def backend() -> str:
    """The library that factorises: "pypardiso" where installed, else "scipy". EMPUJE_SOLVER names one outright. Raises
    NoSuchLibraryError."""
    wish, there = os.environ.get(CHOICE, ""), bool(find_spec("pypardiso"))
    if not wish:
        return "pypardiso" if there else "scipy"
    if wish not in LIBRARIES:
        raise NoSuchLibraryError(f"{CHOICE}={wish}: there is no such library; name {' or '.join(LIBRARIES)}")
    if wish == "pypardiso" and not there:
        raise NoSuchLibraryError(f"{CHOICE}={wish}: it is not installed; `pip install 'empuje[fast]'` does that")
    return wish


def factorise(matrix: sparse.csr_matrix) -> Solve:
    """Factorise a symmetric matrix; the returned function solves for one right-hand side or a block of them.

    Raises SingularError where a pivot vanishes.
    """
    return _pardiso(matrix) if backend() == "pypardiso" else _superlu(matrix)


def factorise_positive(matrix: sparse.csr_matrix) -> Solve:
    """The same of a matrix that may be indefinite. Raises SingularError where it is not positive definite."""
    return _pardiso(matrix) if backend() == "pypardiso" else _superlu(matrix, positive=True)


def _superlu(matrix: sparse.csr_matrix, positive: bool = False) -> Solve:
    from scipy.sparse.linalg import splu

    try:
        lu = splu(
            matrix.T, permc_spec="MMD_AT_PLUS_A", diag_pivot_thresh=0.0, options={"SymmetricMode": True}
        )  # a symmetric positive matrix needs no pivoting, and is its own transpose
    except RuntimeError as error:
        raise SingularError(str(error)) from error
    # Without pivoting the upper factor's diagonal has the signs of the eigenvalues.
    if positive and not (lu.U.diagonal() > 0).all():
        raise SingularError("not positive definite")
    solve: Solve = lu.solve
    return solve


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


def _upper_half(matrix: sparse.csr_matrix) -> sparse.csr_matrix:
    row = np.repeat(np.arange(matrix.shape[0]), np.diff(matrix.indptr))
    keep = matrix.indices >= row
    starts = np.concatenate([[0], np.cumsum(np.bincount(row[keep], minlength=matrix.shape[0]))])
    upper = sparse.csr_matrix((matrix.data[keep], matrix.indices[keep], starts), shape=matrix.shape)
    upper.sort_indices()
    return upper


NOT_POSITIVE, NO_MEMORY = -4, (-2, -9)
"""What PARDISO says of a pivot that is not positive, and where memory does not suffice."""


def _pardiso(matrix: sparse.csr_matrix) -> Solve:
    try:
        from pypardiso import PyPardisoError, PyPardisoSolver
    except (ImportError, OSError):  # installed, but its library does not load on this machine
        return _superlu(matrix, positive=True)
    _spare_the_search()
    # Type 2 is symmetric positive definite and wants the upper half; what is not positive definite fails with -4.
    solver = PyPardisoSolver(mtype=2)
    solver.set_iparm(1, 1)  # not all as it comes: that would refine every solution twice, at three times the price
    solver.set_iparm(2, 2)  # order by nested dissection
    upper = _upper_half(matrix)
    try:
        solver.factorize(upper)
    except PyPardisoError as error:
        if error.value == NOT_POSITIVE:
            raise SingularError(str(error)) from error
        if error.value in NO_MEMORY:
            raise MemoryError(str(error)) from error
        return _superlu(matrix, positive=True)  # not the matrix's fault: SciPy has the last word

    def solve(right: Floats) -> Floats:
        return np.asarray(solver.solve(upper, np.asfortranarray(right))).reshape(right.shape)

    # The factors lie outside Python's memory and would stay there.
    weakref.finalize(solve, solver.free_memory, everything=True)
    return solve
