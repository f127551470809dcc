"""Compiled property kernels: plain functions over packed arrays, no objects, status codes instead of errors.

The compilation cache lives in a folder keyed by a hash of every kernel source, because numba does not notice
that a called function in another module has changed. Its place is the setting ``WATTAXIS_CACHE``.
"""

from __future__ import annotations

import hashlib
import os
from collections.abc import Callable
from functools import lru_cache
from inspect import Parameter, Signature
from pathlib import Path
from typing import Any, TypeVar, cast

import numba
import platformdirs
from llvmlite import binding
from numba.core import cgutils
from numba.core.caching import UserProvidedCacheLocator
from numba.core.sigutils import normalize_signature
from numba.extending import _Intrinsic  # type: ignore[attr-defined]

Function = TypeVar("Function", bound=Callable[..., Any])


_HERE = Path(__file__).parent


@lru_cache(maxsize=1)
def cache_folder() -> Path:
    """Where the compiled kernels of exactly these sources, on exactly this numba, are kept, whatever their place."""
    digest = hashlib.sha256(numba.__version__.encode())
    for source in (_HERE.parent / "layout.py", *sorted(_HERE.glob("*.py"))):
        digest.update(source.name.encode() + source.read_bytes())
    base = os.environ.get("WATTAXIS_CACHE") or platformdirs.user_cache_dir("wattaxis")
    return Path(base) / f"kernels-{digest.hexdigest()[:16]}"


def compiled_mark() -> Path:
    """The file that says that all of them are there."""
    return cache_folder() / "compiled"


class ByContent(UserProvidedCacheLocator):
    """Keeps the compiled kernels in :func:`cache_folder`; numba's own locators keep them under the place of their source file."""

    def get_cache_path(self) -> str:
        """The one folder for these sources."""
        return str(cache_folder())

    def ensure_cache_path(self) -> None:
        """A folder that is complete may be for reading only."""
        if not compiled_mark().exists():
            super().ensure_cache_path()

    @classmethod
    def from_function(cls, py_func: Any, py_file: str) -> Any:
        """None for functions of others, which are none of ours to keep."""
        return super().from_function(py_func, py_file) if Path(py_file).parent == _HERE else None


numba.config.CACHE_DIR = str(cache_folder())  # type: ignore[attr-defined]
numba.config.CACHE_LOCATOR_CLASSES = f"{__name__}.ByContent,InTreeCacheLocator,UserWideCacheLocator"  # type: ignore[attr-defined]


#: The modules whose kernels a process is there to compile; those of others it takes by their signatures. Without it: all.
MODULES = "WATTAXIS_COMPILE"
_ours = frozenset(os.environ.get(MODULES, "").split(",")) - {""}


def _of_others(function: Callable[..., Any]) -> bool:
    return bool(_ours) and function.__module__.rpartition(".")[2] not in _ours


def kernel(signature: str) -> Callable[[Function], Function]:
    """For functions that Python calls: compiled for one explicit signature, no exceptions inside, no lock held, kept on disk."""

    def wrap(function: Function) -> Function:
        compiled: Any = numba.njit(None if _of_others(function) else signature, cache=True, nogil=True, error_model="numpy")(function)
        return cast("Function", compiled)

    return wrap


class _Linked(_Intrinsic):  # type: ignore[misc]
    """A compiled function that kernels call by its symbol, and Python as it is."""

    compiled: Any

    def __call__(self, *args: Any) -> Any:
        return self.compiled(*args)


def linked(signature: str) -> Callable[[Function], Function]:
    """For large functions that kernels call: compiled once, for one explicit signature, and called by symbol.

    A plain call would compile all that stands behind a function into every caller anew; this takes a fifth of the time. The symbol is resolved
    when the machine code is loaded, so that callers stay on disk too, and need not be compiled after what they call.
    """

    def wrap(function: Function) -> Function:
        compiled: Any = kernel(signature)(function)
        if numba.config.DISABLE_JIT:  # type: ignore[attr-defined]
            return function
        arguments, result = normalize_signature(signature)
        symbol = f"{function.__module__}.{function.__name__}"
        binding.add_symbol(symbol, _NOWHERE if _of_others(function) else _address(compiled))

        def call(context: Any, builder: Any, _signature: Any, values: Any) -> Any:
            kind = context.call_conv.get_function_type(result, arguments)
            target = cgutils.get_or_insert_function(builder.module, kind, symbol)
            _status, value = context.call_conv.call_function(builder, target, result, arguments, values)
            return value

        def typed(_context: Any, *_arguments: Any) -> Any:
            return result(*arguments), call

        names = ["context", *(f"a{k}" for k in range(len(arguments)))]
        typed.__signature__ = Signature([Parameter(name, Parameter.POSITIONAL_OR_KEYWORD) for name in names])  # type: ignore[attr-defined]
        handle = _Linked(function.__name__, typed)
        handle.compiled = compiled
        handle._register()
        return cast("Function", handle)

    return wrap


def _address(compiled: Any) -> int:
    (made,) = compiled.overloads.values()
    return int(made.library.get_pointer_to_function(made.fndesc.llvm_func_name))


#: Where a function lies that is only compiled against and never called.
_NOWHERE = 1


def inner(function: Function) -> Function:
    """For functions that kernels call: compiled together with their callers: small ones, which are worth it."""
    return cast("Function", numba.njit(cache=True, nogil=True, error_model="numpy")(function))
