"""Logs as people's loggers write them; the bad ones by line."""

from __future__ import annotations

import json
from datetime import UTC, datetime

import numpy as np
import pytest

from plentar.cli.main import main
from plentar.core.errors import BadInput
from plentar.files.log_csv import read_log_csv
from plentar.files.unit_json import unit_to_json
from plentar.store.demo.plates import plates

UNIT = plates()[2]
ROWS = [(0.0, 0.1), (0.5, 0.0), (1.0, 20.5), (1.5, 20.4), (2.0, 20.6), (2.5, 20.5)]


def written(mark: str = ",", comma: bool = False, header: str = "seconds,C1", end: str = "\n") -> bytes:
    lines = [header.replace(",", mark)]
    for t, a in ROWS:
        line = f"{t}{mark}{a}"
        lines.append(line.replace(".", ",") if comma else line)
    return end.join([*lines, ""]).encode()


@pytest.mark.parametrize(
    "csv",
    [
        written(),
        written(";"),
        written("\t"),
        written(";", comma=True),
        written("\t", comma=True),
        written(end="\r\n"),
        b"\xef\xbb\xbf" + written(),
        written() + b"\n\n",
        written(header='"seconds", "C1"'),
        written(header="seconds,C1,").replace(b"\n0.0", b"\n0.0"),
    ],
)
def test_every_dialect_reads_the_same(csv):
    log = read_log_csv(csv, UNIT)
    assert log.t_s.tolist() == [t for t, _ in ROWS]
    assert log.columns["C1"].tolist() == [a for _, a in ROWS]


def test_iso_times_count_from_the_start_of_the_visit():
    lines = [f"2026-10-05T11:00:{10 + n:02}+02:00,{n}.5" for n in range(6)]
    csv = "\n".join(["time,C1", *lines]).encode()
    started = datetime(2026, 10, 5, 9, 0, 0, tzinfo=UTC)
    assert read_log_csv(csv, UNIT, started).t_s.tolist() == [10, 11, 12, 13, 14, 15]
    assert read_log_csv(csv, UNIT).t_s.tolist() == [0, 1, 2, 3, 4, 5]


def test_stamps_in_whole_seconds_are_spread_and_empty_cells_are_gaps():
    csv = b"seconds,C1,E1\n" + b"".join(b"%d,%d,\n" % (n // 2, n) for n in range(8))
    csv += b"4,9,3.5\n"
    log = read_log_csv(csv, UNIT)
    assert log.t_s.tolist() == [0, 0.5, 1, 1.5, 2, 2.5, 3, 3.5, 4]
    assert np.isnan(log.columns["E1"][:-1]).all() and log.columns["E1"][-1] == 3.5


BAD = [
    (b"0,1\n1,2\n", "line 1", "header"),
    (b"minutes,C1\n0,1\n", "line 1", "seconds or time"),
    (b"seconds,C7\n0,1\n", "line 1", "No reading point “C7”"),
    (b"seconds,supply-air\n0,1\n", "line 1", "not looked for"),
    (b"seconds,C1,C1\n0,1,1\n", "line 1", "named twice"),
    (b"seconds\n0\n", "line 1", "points after seconds"),
    (b"seconds,C1\n", "line 2", "at least 5"),
    (b"seconds,C1\n0,1\n", "line 2", "at least"),
    (written() + b"3.0,low\n", "line 8", "“low” under C1"),
    (written() + b"x,1\n", "line 8", "“x” under seconds"),
    (written() + b"3.0,1,2\n", "line 8", "3 cells"),
    (written() + b"1.0,1\n", "line 8", "runs back"),
    (written() + b",1\n", "line 8", "without its time"),
    (written() + b"3,-40\n", "line 8", "no clamp"),
    (written() + b"3,1e999\n", "line 8", "without end"),
    (written().replace(b"20.6", b"20.\xff"), "line 6", "UTF-8"),
    (b"time,C1\n2026-10-05T09:00:00,1\n" * 1 + b"2026-10-05T09:00:01Z,1\n" * 5, "line 2", "zone"),
    (b"time,C1\n" + b"2026-10-05T09:00:00Z,1\n" * 5 + b"noon,1\n", "line 7", "ISO 8601"),
]


@pytest.mark.parametrize(("csv", "line", "said"), BAD)
def test_a_bad_log_is_refused_by_its_line(csv, line, said):
    with pytest.raises(BadInput) as refused:
        read_log_csv(csv, UNIT)
    assert refused.value.path == line
    assert said in refused.value.reason


@pytest.mark.parametrize(
    ("home", "fault", "told"),
    [
        (2, "S1:slow", {"late"}),
        (5, "none", {"in-window"}),
        (3, "none", {"in-window"}),
        (2, "TL2:weak", {"in-window"}),
    ],
)
def test_a_simulated_clamp_is_read_back_by_trace(tmp_path, capsys, home, fault, told):
    """Command to command: what the stand-in logs, the finder judges."""
    visit = {
        "format": "plentar-visit",
        "version": 1,
        "unit": unit_to_json(plates()[home]),
        "visit": {"events": [{"t": 10, "calls": ["W1"]}, {"t": 2400, "calls": []}]},
    }
    file, csv = tmp_path / "visit.json", tmp_path / "log.csv"
    file.write_text(json.dumps(visit))
    fault_args = [] if fault == "none" else ["--fault", fault]
    assert main(["clamp", str(file), "--hertz", "1", *fault_args]) == 0
    csv.write_text(capsys.readouterr().out)
    assert main(["trace", str(csv), "--unit", str(file), "--json"]) == 0
    trace = json.loads(capsys.readouterr().out)
    assert {s["element"] for s in trace["stages"]} == {e.id for e in plates()[home].elements}
    assert {s["on"]["verdict"] for s in trace["stages"] if s["on"]} == told
    assert [c["element"] for c in trace["cycles"]] == (["E2"] if fault == "TL2:weak" else [])
    assert main(["trace", str(csv), "--unit", str(file)]) == 0
    assert "should read" in capsys.readouterr().out


def test_trace_says_the_file_and_line_of_what_is_bad(tmp_path, capsys):
    file, csv = tmp_path / "visit.json", tmp_path / "log.csv"
    file.write_text(json.dumps({"format": "plentar-visit", "version": 1, "unit": unit_to_json(UNIT)}))
    csv.write_bytes(written() + b"3.0,low\n")
    assert main(["trace", str(csv), "--unit", str(file)]) == 2
    assert f"{csv}: line 8: “low”" in capsys.readouterr().err
    assert main(["trace", str(csv), "--unit", str(file), "--call", "Q@x"]) == 2
