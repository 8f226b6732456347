"""How much memory a process has had."""

from __future__ import annotations

from pathlib import Path


def peak_mb(process: int | str = "self") -> float:
    """The most memory that a process has had, in MB; unlike ``getrusage`` without what its parent had.

    Args:
        process: its number; this one where absent.
    """
    status = Path(f"/proc/{process}/status").read_text()
    return next(int(line.split()[1]) / 1024 for line in status.splitlines() if line.startswith("VmHWM"))
