"""The command line and the tables it prints."""

import csv
import io
import json
import re
import subprocess
import sys
from importlib.resources import as_file, files
from pathlib import Path

import pytest
from openpyxl import load_workbook
from plants import demo

from wattaxis import cli, dump, solve
from wattaxis.cli import TOGETHER
from wattaxis.exchange import stream_csv, stream_rows, workbook
from wattaxis.properties import kernels


def run(capsys, *arguments):
    code = cli.main([str(a) for a in arguments])
    out = capsys.readouterr()
    return code, out.out, out.err


def test_solve_and_check_the_demo(capsys):
    with as_file(files("wattaxis.examples").joinpath("sandlark_bay.json")) as path:
        code, out, _ = run(capsys, "solve", path)
        assert code == 0
        assert "balances close" in out
        assert "S-12" in out
        code, out, _ = run(capsys, "solve", path, "--json")
        assert json.loads(out)["complete"] is True
        code, out, _ = run(capsys, "check", path)
        assert (code, "nothing is missing" in out) == (0, True)


def test_what_is_missing_and_what_is_broken(capsys, tmp_path):
    path = tmp_path / "plant.json"
    path.write_text('{"format": "wattaxis-flowsheet", "version": 1, "units": [{"tag": "F-1", "type": "feed", "spec": {}}]}')
    code, out, _ = run(capsys, "check", path)
    assert code == 1
    assert "F-1 needs 2 values for its state" in out
    path.write_text("{")
    code, _, err = run(capsys, "solve", path)
    assert (code, "not valid JSON" in err) == (2, True)
    code, _, err = run(capsys, "solve", tmp_path / "absent.json")
    assert (code, "No such file" in err) == (2, True)


def test_tables_agree_with_the_results():
    document = demo()
    result = solve(document)
    rows = {row[0]: row for row in stream_rows(document, result)}
    column = rows["Stream"].index("S-08")
    assert rows["Temperature"][column] == pytest.approx(result.streams["S-08"].temperature - 273.15)
    assert rows["Mass flow"][column] == pytest.approx(result.streams["S-08"].mass_flow * 3600)
    read = list(csv.reader(io.StringIO(stream_csv(document, result))))
    assert float(read[1][column]) == rows["Temperature"][column]
    book = load_workbook(io.BytesIO(workbook(document, result)))
    assert book.active.cell(2, column + 1).value == pytest.approx(rows["Temperature"][column])


def test_checking_a_document_loads_neither_kernels_nor_solvers(tmp_path):
    path = tmp_path / "plant.json"
    path.write_text(dump(demo()))
    heavy = ("numba", "scipy.optimize", "scipy.linalg", "networkx", "openpyxl", "pandas")
    said = f"print([m for m in {heavy!r} if m in sys.modules], file=sys.stderr)"
    code = f"import sys; from wattaxis.cli import main; main(['check', {str(path)!r}]); {said}"
    told = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stderr
    assert told.strip() == "[]"


def test_every_module_with_kernels_is_compiled_when_the_program_is_set_up():
    folder = Path(kernels.__file__).parent
    marked = {path.stem for path in folder.glob("*.py") if re.search(r"^@(kernel|linked)\(", path.read_text(), re.MULTILINE)}
    listed = [name for together in TOGETHER for name in together.split(",")]
    assert sorted(listed) == sorted(marked)
