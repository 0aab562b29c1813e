"""All checks for suspicious input, in short."""

from __future__ import annotations

from ..load_path.taken import areas_astray
from ..model.findings import Finding, in_short, with_accepted
from ..resolved import Resolved
from .amounts import amounts
from .cases import of_cases
from .components import of_components
from .frame import of_frame
from .levels import of_levels
from .loads import of_loads
from .plates import of_plates
from .surfaces import of_surfaces


def suspicious(resolved: Resolved) -> list[Finding]:
    """What is suspicious in a model without errors; those accepted as such, before some stand for many."""
    found = [
        *amounts(resolved), *of_frame(resolved), *of_loads(resolved), *of_surfaces(resolved), *of_cases(resolved),
        *of_levels(resolved), *areas_astray(resolved), *of_components(resolved), *of_plates(resolved),
    ]  # fmt: skip
    return in_short(with_accepted(found, resolved.project.accepted))
