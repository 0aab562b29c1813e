"""Empuje: loads, combinations, envelopes and governing reactions of building frames.

import empuje

project = empuje.read("packing-house.toml")
solution = empuje.solve(project)
print(solution.reactions(under="strength"))
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from .api import ModelError, Solution, combinations, read, solve, stability

__version__ = "0.1.0"
__all__ = ["ModelError", "Solution", "__version__", "combinations", "read", "solve", "stability"]


def __getattr__(name: str) -> Any:
    # The numerical libraries take a while to load: `empuje --help` must not wait for them.
    if name in __all__:
        from . import api

        return getattr(api, name)
    raise AttributeError(f"module 'empuje' has no attribute '{name}'")
