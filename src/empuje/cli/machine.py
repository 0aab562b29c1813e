"""What the machine has."""

from __future__ import annotations

import ctypes
import os
import sys


def memory() -> int | None:
    """Bytes of memory; None where that cannot be told."""
    if sys.platform == "win32":
        status = (ctypes.c_ulonglong * 8)()
        ctypes.cast(status, ctypes.POINTER(ctypes.c_ulong))[0] = 64
        return int(status[1]) if ctypes.windll.kernel32.GlobalMemoryStatusEx(status) else None
    try:
        return os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES")
    except (AttributeError, ValueError, OSError):
        return None
