"""What ships: the wheel in an empty environment, the unit for systemd, the container file."""

from __future__ import annotations

import io
import os
import re
import shutil
import subprocess
import sys
import tempfile
import venv
import zipfile
from collections.abc import Iterator
from pathlib import Path

import pytest
from dockerfile_parse import DockerfileParser

from plentar.store.cluster import project_cluster
from tests.app.conftest import HOME, PASSWORD
from tests.app.operate.test_serve import clear_away

pytestmark = pytest.mark.slow


@pytest.fixture(scope="module")
def wheel(tmp_path_factory) -> Path:
    """Built from what the repository tracks, without a network."""
    source, to = tmp_path_factory.mktemp("source"), tmp_path_factory.mktemp("wheel")
    for name in ("pyproject.toml", "README.md", "LICENSE"):
        shutil.copy(HOME / name, source)
    shutil.copytree(HOME / "src", source / "src", ignore=shutil.ignore_patterns("__pycache__", "*.egg-info"))
    line = [sys.executable, "-m", "pip", "wheel", "-q", "--no-deps", "--no-build-isolation", "-w", str(to)]
    subprocess.run([*line, str(source)], check=True)
    (made,) = to.glob("plentar-*.whl")
    return made


def test_all_that_is_no_code_is_in_the_wheel(wheel):
    there = set(zipfile.ZipFile(wheel).namelist())
    wanted = {
        str(file.relative_to(HOME / "src"))
        for file in (HOME / "src" / "plentar").rglob("*")
        if file.is_file() and "__pycache__" not in file.parts and file.suffix not in (".po", ".md", ".pyc")
    }
    assert wanted - there == set()
    for kind in (".html", ".css", ".js", ".mo", ".woff2", ".mako", ".conf"):
        assert any(name.endswith(kind) for name in there), kind


@pytest.fixture
def place() -> Iterator[Path]:
    """Where whoever the server runs as can reach it."""
    made = Path(tempfile.mkdtemp(prefix="plentar-test-", dir="/var/tmp"))
    made.chmod(0o755)
    yield made
    shutil.rmtree(made)


def test_installed_in_an_empty_environment_it_serves_a_page_and_a_sheet(able, wheel, place, tmp_path):
    """By the locks; then a shop is made, signed in to, and a visit's report printed."""
    venv.create(place, with_pip=True)
    pip = [str(place / "bin" / "python"), "-m", "pip"]
    lock = ["--no-compile", "--no-deps", "--require-hashes", "-r", str(HOME / "requirements.lock")]
    subprocess.run([*pip, "install", "-q", *lock], check=True)
    subprocess.run([*pip, "install", "-q", "--no-deps", str(wheel)], check=True)
    subprocess.run([*pip, "check"], check=True)
    home = tmp_path / "home"
    script = Path(__file__).with_name("installed.py")
    keep = ("PATH", "LANG", "TERM")
    env = {name: os.environ[name] for name in keep if name in os.environ} | {"PLENTAR_HOME": str(home)}
    done = subprocess.run(
        [str(place / "bin" / "python"), str(script), str(place / "bin" / "plentar"), PASSWORD],
        env=env,
        cwd=tmp_path,
        check=False,
        capture_output=True,
        text=True,
        timeout=180,
    )
    assert done.returncode == 0, done.stdout + done.stderr
    clear_away(project_cluster(home, "postgres"))
    assert "report: %PDF" in done.stdout
    assert "stopped: 0" in done.stdout


def test_the_unit_is_one_that_systemd_takes_and_little_is_open(tmp_path):
    text = (HOME / "deploy" / "plentar.service").read_text()
    unit = tmp_path / "plentar.service"
    unit.write_text(text.replace("/opt/plentar/bin/plentar", "/bin/true"))
    checked = subprocess.run(
        ["systemd-analyze", "verify", str(unit)], capture_output=True, text=True, check=False
    )
    said = [line for line in checked.stderr.splitlines() if "plentar" in line]
    assert checked.returncode == 0 and not said, checked.stderr
    line = ["systemd-analyze", "security", "--offline=true", "--threshold=20", str(unit)]
    safe = subprocess.run(line, capture_output=True, text=True, check=False)
    assert safe.returncode == 0, safe.stdout[-400:]
    for directive in ("User=plentar", "Restart=", "NoNewPrivileges=yes", "ProtectSystem=strict"):
        assert directive in text
    options = set(re.findall(r"--[a-z-]+", re.search("ExecStart=(.*)", text)[1]))
    said = subprocess.run(
        [sys.executable, "-m", "plentar", "serve", "--help"], capture_output=True, text=True, check=False
    ).stdout
    assert all(option in said for option in options)


def test_the_container_file_copies_what_is_there_and_runs_not_as_root():
    parsed = DockerfileParser(fileobj=io.BytesIO((HOME / "deploy" / "Containerfile").read_bytes()))
    steps = parsed.structure
    for step in steps:
        if step["instruction"] == "COPY" and "--from" not in step["value"]:
            *sources, _ = step["value"].split()
            assert all((HOME / source).exists() for source in sources), step["value"]
    kinds = [step["instruction"] for step in steps]
    users = [step["value"] for step in steps if step["instruction"] == "USER"]
    assert users == ["plentar"] and kinds.index("USER") < kinds.index("ENTRYPOINT")
    assert "HEALTHCHECK" in kinds and "VOLUME" in kinds
    assert any("--require-hashes" in step["value"] for step in steps if step["instruction"] == "RUN")
    last = {step["instruction"]: step["value"] for step in steps}
    assert last["ENTRYPOINT"] == '["plentar"]' and '"serve"' in last["CMD"]


def test_the_installation_is_written_as_it_is(tmp_path):
    """Each command of the program in the chapter is one that there is, each file one that ships."""
    chapter = (HOME / "docs" / "install.md").read_text()
    listed = subprocess.run(
        [sys.executable, "-m", "plentar", "--help"], capture_output=True, text=True, check=False
    ).stdout
    known = set(re.findall(r"^  ([a-z-]+)  ", listed, re.MULTILINE))
    named = set(re.findall(r"(?:plentar-admin|bin/plentar|`plentar) ([a-z-]+)", chapter))
    assert len(named) > 6 and named <= known, named - known
    for file in re.findall(r"deploy/[A-Za-z.]+", chapter):
        assert (HOME / file).is_file(), file
