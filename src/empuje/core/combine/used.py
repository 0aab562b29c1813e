"""Which values and factors of a rule set stand in the rules that made something."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence

from ..model.cases import Combination
from ..model.rules import RuleSet


def used_in(rules: RuleSet, made: Sequence[Combination], names: Iterable[str]) -> list[str]:
    """Those of the names."""
    ids = {c.rule for c in made}
    texts = [rule.text for rule in rules.rules if rule.id in ids]
    return [n for n in names if any(re.search(rf"\b{re.escape(n)}\b", text) for text in texts)]
