"""The command line: ``wattaxis solve | check | study | warm`` on documents, for batch work and tests."""

from __future__ import annotations

import argparse
import json
import os
import shutil
import subprocess
import sys
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from wattaxis.flowsheet import Document
    from wattaxis.studies import StudyResult

#: Modules of kernels that are compiled together; those that take longest come first.
TOGETHER = (
    "activity", "three", "stability", "saturation", "split", "energy", "flow,rates,tube,stirred", "cubic,phase", "steam,pure,vapour,staged",
    "clusters,single,boil,volume_shift",
)  # fmt: skip
#: s after which compiled kernels that no set-up asked for are removed.
KEPT = 30 * 86400.0


def main(arguments: list[str] | None = None) -> int:
    """Run one command. Returns 0 when all is calculated, 1 when something is missing or at fault, 2 for a bad call."""
    parser = argparse.ArgumentParser(prog="wattaxis", description="Calculate chemical plants from flowsheet documents.")
    commands = parser.add_subparsers(dest="command", required=True)
    for name, text in (("solve", "calculate a document and print its stream table"), ("check", "list what a document lacks, without calculating")):
        command = commands.add_parser(name, help=text)
        command.add_argument("document", type=Path, help="a flowsheet document (JSON)")
        command.add_argument("--json", action="store_true", help="print everything as JSON, SI units")
    study = commands.add_parser("study", help="calculate a study of a document and print its cases as CSV")
    study.add_argument("document", type=Path, help="a flowsheet document (JSON)")
    study.add_argument("name", help="the name of the study")
    study.add_argument("--json", action="store_true", help="print all of the answer as JSON, SI units")
    study.add_argument("--workers", type=int, default=1, help="processes that calculate it (1)")
    study.add_argument("--cluster", default="", help="the address of a scheduler of Dask in their place")
    commands.add_parser("warm", help="compile the property kernels now, so that the first calculation is quick")
    options = parser.parse_args(arguments)
    if options.command == "warm":
        return _warm()
    document = _read(options.document)
    if document is None:
        return 2
    return _study(document, options) if options.command == "study" else _run(options.command, document, options.json)


def _read(path: Path) -> Document | None:
    """A document; where it cannot be read, that is said."""
    from wattaxis.flowsheet import DocumentError, load

    try:
        return load(path.read_bytes())
    except OSError as error:
        print(f"{path}: {error.strerror}", file=sys.stderr)
    except DocumentError as error:
        for place, message in error.problems:
            print(f"{path}: {place}: {message}" if place else f"{path}: {message}", file=sys.stderr)
    return None


def _study(document: Document, options: argparse.Namespace) -> int:
    """Print the cases of a study, or all of its answer as JSON. 1 where some have no value or no best was found, 2 where it cannot be asked."""
    from wattaxis.exchange import study_csv
    from wattaxis.studies import StudyError, ask

    study = next((study for study in document.studies if study.name == options.name), None)
    if study is None:
        there = ", ".join(study.name for study in document.studies) or "none"
        print(f"There is no study {options.name!r}; there is {there}.", file=sys.stderr)
        return 2
    try:
        result = _by_cluster(document, options) if options.cluster or options.workers > 1 else ask(document, study)
    except StudyError as error:
        print(error, file=sys.stderr)
        return 2
    print(json.dumps(result.to_data()) if options.json else study_csv(document, result), end="\n" if options.json else "")
    print(*result.remarks, sep="\n", end="\n" if result.remarks else "", file=sys.stderr)
    if result.optimum is not None:
        return int(result.optimum.best is None)
    return int(any(value is None for case in result.cases for value in case.outputs))


def _by_cluster(document: Document, options: argparse.Namespace) -> StudyResult:
    from wattaxis.flowsheet.document import to_data
    from wattaxis.studies.cluster import StudyCluster

    cluster = StudyCluster(options.cluster, options.workers, megabytes=0)
    try:
        return cluster.ask(to_data(document), options.name)
    finally:
        cluster.close()


def _run(command: str, document: Document, as_json: bool) -> int:
    from wattaxis.solving import check, solve

    result = solve(document) if command == "solve" else check(document)
    bad = bool(result.asks) or any(f.severity == "fault" for f in result.findings)
    if as_json:
        print(json.dumps(result.to_data(), indent=1))
        return int(bad)
    if command == "solve" and result.streams:
        from wattaxis.exchange import stream_text

        print(stream_text(document, result))
        print()
    for ask in result.asks:
        print(f"missing  {ask.place}: {ask.text}")
    for finding in result.findings:
        print(f"{finding.severity:8} {finding.place}: {finding.text} {finding.remedy}".rstrip())
    for item in result.assumptions:
        value = item.value if isinstance(item.value, str) else f"{item.value:g}"
        print(f"assumed  {item.place}: {item.title} = {value}{' ' * bool(item.unit)}{item.unit} ({item.reason})")
    if command == "solve" and result.complete:
        print(f"balances close: mass {result.balance.mass_gap:.1e}, energy {result.balance.energy_gap:.1e}")
    elif not bad:
        print("nothing is missing")
    return int(bad)


def _warm() -> int:
    """Compile the kernels, the slowest modules first, in as many processes as there are cores, since numba compiles on one only."""
    from wattaxis.properties.kernels import MODULES, cache_folder, compiled_mark

    if compiled_mark().exists():
        compiled_mark().touch()
        print("The property kernels are compiled.")
        return 0
    print("Compiling the property kernels ", end="", flush=True)
    started = time.perf_counter()

    def compiled(modules: str) -> bool:
        command = "; ".join(f"import wattaxis.properties.kernels.{name}" for name in modules.split(","))
        done = subprocess.run([sys.executable, "-c", command], env={**os.environ, MODULES: modules}, check=False)
        print(".", end="", flush=True)
        return done.returncode == 0

    with ThreadPoolExecutor(os.cpu_count() or 2) as pool:
        if not all(pool.map(compiled, TOGETHER)):
            print(" given up")
            return 1
    compiled_mark().touch()
    for left in cache_folder().parent.glob("kernels-*/compiled"):
        if time.time() - left.stat().st_mtime > KEPT:
            shutil.rmtree(left.parent, ignore_errors=True)
    print(f" ready after {time.perf_counter() - started:.0f} s")
    return 0


if __name__ == "__main__":
    sys.exit(main())
