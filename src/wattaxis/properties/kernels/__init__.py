"""Compiled property kernels: plain functions over packed arrays, no objects, status codes instead of errors.

The compilation cache lives in a folder keyed by a hash of every kernel source, because numba does not notice
that a called function in another module has changed. Its place is the setting ``WATTAXIS_CACHE``.
"""

from __future__ import annotations

import hashlib
import os
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar, cast

import numba
import platformdirs

Function = TypeVar("Function", bound=Callable[..., Any])


def cache_folder() -> Path:
    """Where the compiled kernels of exactly these sources, on exactly this numba, are kept."""
    digest = hashlib.sha256(numba.__version__.encode())
    here = Path(__file__).parent
    for source in (here.parent / "layout.py", *sorted(here.glob("*.py"))):
        digest.update(source.name.encode() + source.read_bytes())
    base = os.environ.get("WATTAXIS_CACHE") or platformdirs.user_cache_dir("wattaxis")
    return Path(base) / f"kernels-{digest.hexdigest()[:16]}"


numba.config.CACHE_DIR = str(cache_folder())  # type: ignore[attr-defined]


def kernel(signature: str) -> Callable[[Function], Function]:
    """For functions that Python calls: compiled for one explicit signature, no exceptions inside, no lock held, kept on disk."""
    compiled: Any = numba.njit(signature, cache=True, nogil=True, error_model="numpy")
    return cast("Callable[[Function], Function]", compiled)


def inner(function: Function) -> Function:
    """For functions that kernels call: compiled together with their callers, so that a start with a warm cache does not load them."""
    return cast("Function", numba.njit(cache=True, nogil=True, error_model="numpy")(function))
