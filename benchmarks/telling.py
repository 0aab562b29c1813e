"""How a benchmark says its ratios, so that `ratios.py` finds them."""

MARK = "ratio: "


def tell(name: str, ratio: float) -> None:
    """A line with a name and a ratio."""
    print(f"{MARK}{name}\t{ratio:.3g}", flush=True)
