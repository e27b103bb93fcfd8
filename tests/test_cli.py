"""The command line."""

from __future__ import annotations

import json
import math
import re
import sys
from pathlib import Path

import pytest

from bastler import language
from bastler.cli import main
from bastler.job import write_job
from bastler.job.samples import sample_names
from bastler.proof.mill import bands
from bastler.steps import Facing, RectangularPocket
from conftest import job_of


def test_samples_are_listed_and_written(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["sample"]) == 0
    listed = capsys.readouterr().out
    assert all(name in listed for name in sample_names())
    target = tmp_path / "a.bastler"
    assert main(["sample", "winch-base", "-o", str(target)]) == 0
    assert main(["sample", "anchor"]) == 2
    assert "There is no sample" in capsys.readouterr().err
    assert main(["post", str(target), "-o", str(tmp_path / "a.nc")]) == 0
    assert (tmp_path / "a.nc").read_text().startswith("%\nO1010")
    assert main(["prove", str(target)]) == 0
    assert "Proved" in capsys.readouterr().out


def test_the_report_is_whole(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / "a.bastler"
    write_job(job_of(Facing(id="a"), RectangularPocket(id="b", x=30, y=20)), path)
    assert main(["prove", str(path), "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    wanted = [
        "proved",
        "remarks",
        "time_s",
        "removed_volume",
        "left_volume",
        "gouge_volume",
        "max_left",
        "max_gouge",
        "stages",
        "sizes",
    ]
    assert set(wanted) <= set(found)
    assert [(s["step"], s["stage"], s["tool"]) for s in found["stages"]] == [
        ("a", "face", 1),
        ("b", "rough", 3),
        ("b", "finish", 3),
    ]
    assert found["removed_volume"] == pytest.approx(sum(s["removed_volume"] for s in found["stages"]))
    assert all(s["peak_power"] > 0 and s["time_s"] > 0 for s in found["stages"])


def test_a_stop_gives_one_and_rubbish_gives_two(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path, program = tmp_path / "a.bastler", tmp_path / "a.nc"
    write_job(job_of(RectangularPocket(id="b", x=30, y=20, corner_radius=3.5, tool="end-16")), path)
    assert main(["prove", str(path), "--json"]) == 1
    assert json.loads(capsys.readouterr().out)["remarks"][0]["level"] == "stop"
    assert main(["post", str(path), "-o", str(program)]) == 1
    program.write_text("G0 X10 X20\n")
    assert main(["prove", str(program), "--setup", str(path)]) == 1
    assert main(["prove", str(program)]) == 2
    (tmp_path / "bad.bastler").write_text("{")
    assert main(["prove", str(tmp_path / "bad.bastler")]) == 2
    assert main(["prove", str(tmp_path / "none.bastler")]) == 2


def test_a_terminal_hears_how_far_a_long_program_is_and_may_stop_it(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    path, program = tmp_path / "a.bastler", tmp_path / "a.nc"
    write_job(job_of(Facing(id="a")), path)
    way = "\n".join(f"X{40 + 30 * math.cos(k / 50):.3f} Y{40 + 20 * math.sin(k / 50):.3f}" for k in range(45_000))
    program.write_text(f"G21 G90 G17\nT3 M6\nS6000 M3\nG54 G0 X70 Y40\nG43 H3 Z20\nG1 Z-2 F1500\n{way}\nG0 Z20\nM30\n")
    main(["prove", str(program), "--setup", str(path)])
    assert not capsys.readouterr().err
    monkeypatch.setattr(sys.stderr, "isatty", lambda: True)
    main(["prove", str(program), "--setup", str(path)])
    shares = [int(share) for share in re.findall(r"Proving, +(\d+)%", capsys.readouterr().err)]
    assert len(shares) >= 3
    assert shares == sorted(shares)
    assert 30 < shares[0] < 60

    def pressed(*given: object) -> None:
        raise KeyboardInterrupt

    monkeypatch.setattr(bands, "run_segments", pressed)
    assert main(["prove", str(program), "--setup", str(path)]) == 130


def test_the_schema_is_json(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["schema"]) == 0
    assert json.loads(capsys.readouterr().out)["title"] == "Bastler job"


@pytest.mark.parametrize(
    ("given", "said"),
    [
        (["--help"], "Handbuchseite der Befehlszeile"),
        (["post"], "es fehlt: AUFTRAG, -o/--output"),
        (["prove", "a", "--holding", "x"], "„x“ ist keine ganze Zahl"),
        (["anchor"], "'anchor' gibt es hier nicht"),
        (["prove", "a.nc"], "Zu einem Programm gehört --setup AUFTRAG"),
        (["prove", "a.bastler"], "es ist nicht da"),
        (["sample", "anchor"], "Es gibt kein Beispiel „anchor“"),
        (["standin", "anchor"], "Es gibt keine Maschinenkarte „anchor“"),
        (["standin", "mill-600", "--port", "-1"], "Ein Port ist eine Zahl von 0 bis 65535"),
        (["solid", "a.bastler", "-o", "a.obj"], "Ein Körper wird als .stl oder .3mf geschrieben"),
    ],
)
def test_a_terminal_is_answered_in_its_language(
    given: list[str], said: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    monkeypatch.chdir(tmp_path)
    monkeypatch.setattr(language, "_STARTED_IN", "de")
    try:
        found = main(given)
    except SystemExit as left:  # what reads the command line leaves by itself
        found = int(left.code or 0)
    finally:
        language.speak("en")
    out, err = capsys.readouterr()
    assert found == (0 if given == ["--help"] else 2)
    assert said in " ".join((out + err).split())
    assert not re.search(r"(?<![-\w])(the|of|is|usage|error|argument|required)(?![-\w])", out + err), out + err


def test_what_is_proved_is_said_in_the_language_of_the_shell_and_reported_the_same(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    path = tmp_path / "a.bastler"
    write_job(job_of(RectangularPocket(id="b", x=30, y=20, corner_radius=3.5, tool="end-16")), path)
    reports = []
    for name in language.LANGUAGES:
        monkeypatch.setattr(language, "_STARTED_IN", name)
        assert main(["prove", str(path)]) == 1
        said = capsys.readouterr().out
        assert said.startswith({"en": "stop: ", "de": "Halt: "}[name])
        assert said.splitlines()[-1].startswith({"en": "Not proved", "de": "Nicht geprüft"}[name])
        assert main(["prove", str(path), "--json"]) == 1
        report = json.loads(capsys.readouterr().out)
        reports.append([(r["code"], r["line"], r["step"], r["level"]) for r in report["remarks"]] + [report["time_s"]])
    language.speak("en")
    assert reports[0] == reports[1]
