"""Empuje: loads, combinations, envelopes and governing reactions of building frames.

import empuje

model = empuje.read("packing-house.toml")
results = model.solve()
print(results.reactions(under="strength"))
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from .api import Model, ModelError, NoSuchValue, NothingMeant, Results, UnusableFile, read

__version__ = "0.1.0"
__all__ = [
    "Model", "ModelError", "NoSuchValue", "NothingMeant", "Results", "UnusableFile", "__version__", "read",
]  # fmt: skip


def __dir__() -> list[str]:
    return __all__


def __getattr__(name: str) -> Any:
    # The numerical libraries take a while to load: `empuje --help` must not wait for them.
    if name in __all__:
        from . import api

        return getattr(api, name)
    raise AttributeError(f"module 'empuje' has no attribute '{name}'")
