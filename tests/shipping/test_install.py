# SPDX-License-Identifier: GPL-3.0-or-later
"""Onto a login's desktop and off it again; validators of the desktop's standards; pages as they are now."""

import configparser
import json
import os
import shutil
import subprocess
import sys
import tomllib
from pathlib import Path
from xml.etree import ElementTree

import pytest
from shipping.icons import NAME, SIZES

from redlantern import __version__
from shipping import install, pages

ROOT = Path(__file__).parents[2]
SHIPPING = ROOT / "shipping"


@pytest.fixture
def at_home(tmp_path, monkeypatch):
    home = tmp_path / "a home with blanks"
    home.mkdir()
    monkeypatch.setenv("HOME", str(home))
    monkeypatch.setenv("XDG_DATA_HOME", str(home / "data"))
    return home


def installed(*words):
    """As ./run install does it, in a process of its own: icons need an application."""
    return subprocess.run(
        [sys.executable, "-m", "shipping.install", *words], cwd=ROOT, capture_output=True, text=True, timeout=60,
        env=os.environ | {"QT_QPA_PLATFORM": "offscreen"},
    )  # fmt: skip


def files_in(folder):
    return sorted(path for path in folder.rglob("*") if path.is_file() or path.is_symlink())


def run_tool(name, *words):
    if shutil.which(name) is None:
        pytest.skip(f"{name} is not installed")
    done = subprocess.run([name, *words], capture_output=True, text=True)
    return done.returncode, done.stdout + done.stderr


def test_it_is_put_in_place_and_taken_away_again_whole(at_home):
    (at_home / "data" / "redlantern").mkdir(parents=True)
    (at_home / "data" / "redlantern" / "collections.json").write_text("[]")
    done = installed()
    assert done.returncode == 0, done.stderr
    share = at_home / "data"
    for size in SIZES:
        assert (share / f"icons/hicolor/{size}x{size}/apps/{NAME}.png").read_bytes().startswith(b"\x89PNG")
    assert ElementTree.parse(share / f"icons/hicolor/scalable/apps/{NAME}.svg").getroot().tag.endswith("svg")
    for path in (f"metainfo/{NAME}.metainfo.xml", "man/man1/redlantern.1", "bash-completion/completions/redlantern"):
        assert (share / path).is_file()
    again = installed()
    assert again.returncode == 0, "it can be done again over itself"
    gone = installed("--uninstall")
    assert gone.returncode == 0
    assert [path.name for path in files_in(at_home) if path.name not in _OF_THE_DESKTOP] == ["collections.json"]


_OF_THE_DESKTOP = {
    "mimeinfo.cache", "XMLnamespaces", "aliases", "generic-icons", "globs", "globs2", "icons", "magic", "mime.cache",
    "subclasses", "treemagic", "types", "version", "icon-theme.cache",
}  # fmt: skip
"""What update-mime-database, update-desktop-database and gtk-update-icon-cache write for all programs."""


def test_the_launcher_starts_what_was_installed(at_home):
    installed()
    launcher = configparser.ConfigParser(interpolation=None)
    launcher.optionxform = str
    launcher.read(at_home / "data" / "applications" / f"{NAME}.desktop", encoding="utf-8")
    command = launcher["Desktop Entry"]["Exec"]
    assert command == f'"{at_home}/.local/bin/redlantern" open %F'
    done = subprocess.run(
        [str(at_home / ".local/bin/redlantern"), "--version"], capture_output=True, text=True, timeout=60
    )
    assert done.stdout == f"redlantern {__version__}\n"


def test_a_command_of_that_name_that_is_not_ours_is_left_alone(at_home):
    command = at_home / ".local" / "bin" / "redlantern"
    command.parent.mkdir(parents=True)
    command.write_text("#!/bin/sh\n")
    done = installed()
    assert done.returncode == 1 and "was not put there by Red Lantern" in done.stderr
    assert command.read_text() == "#!/bin/sh\n" and files_in(at_home) == [command]


@pytest.mark.parametrize(("path", "quoted"), [("/a b/c", '"/a b/c"'), ("/50%/x", '"/50%%/x"'), ('/a"b', '"/a\\\\"b"')])
def test_paths_are_quoted_as_launchers_want_it(path, quoted):
    assert install._quoted(Path(path)) == quoted


def test_launcher_and_metainfo_are_valid():
    code, said = run_tool("desktop-file-validate", str(SHIPPING / f"{NAME}.desktop"))
    assert (code, said) == (0, "")
    code, said = run_tool("appstreamcli", "validate", "--no-net", str(SHIPPING / f"{NAME}.metainfo.xml"))
    assert code == 0, said


def test_the_kind_of_file_is_known_to_a_desktop(tmp_path):
    packages = tmp_path / "mime" / "packages"
    packages.mkdir(parents=True)
    shutil.copy(SHIPPING / f"{NAME}.mime.xml", packages / f"{NAME}.xml")
    code, said = run_tool("update-mime-database", str(tmp_path / "mime"))
    assert code == 0, said
    assert "application/x-redlantern-collection:*.redlantern" in (tmp_path / "mime" / "globs").read_text()


def test_the_pages_are_those_of_the_parser_as_it_is():
    """Made anew by `python -m shipping.pages`."""
    assert pages.MAN_PAGE.read_text(encoding="utf-8") == pages.man_page()
    assert pages.COMPLETION.read_text(encoding="utf-8") == pages.completion()
    done = subprocess.run(["bash", "-n", str(pages.COMPLETION)], capture_output=True, text=True)
    assert (done.returncode, done.stderr) == (0, "")


def test_the_man_page_is_understood():
    if shutil.which("man") is None:
        pytest.skip("man is not installed")
    done = subprocess.run(["man", "--warnings", "-l", str(pages.MAN_PAGE)], capture_output=True, text=True)
    assert done.stderr == "" and "read-through" in done.stdout


def test_the_wheel_asks_for_what_set_up_installs():
    project = tomllib.loads((ROOT / "pyproject.toml").read_text(encoding="utf-8"))["project"]
    lines = (ROOT / "requirements.txt").read_text(encoding="utf-8").splitlines()
    pinned = [line.split()[0] for line in lines if line[:1].isalnum()]
    assert project["dependencies"] == [each for each in pinned if not each.startswith("setuptools")]
    assert project["version"] == __version__


def test_wheel_and_sdist_are_built_and_the_wheel_runs_where_nothing_of_the_project_is(tmp_path):
    """Takes some seconds: it builds, installs and starts."""
    built = subprocess.run(
        [sys.executable, "-m", "build", "--no-isolation", "--outdir", str(tmp_path / "dist"), "."],
        cwd=ROOT, capture_output=True, text=True, timeout=240,
    )  # fmt: skip
    assert built.returncode == 0, built.stderr[-2000:]
    [wheel] = (tmp_path / "dist").glob("*.whl")
    assert len(list((tmp_path / "dist").glob("*.tar.gz"))) == 1
    fresh = tmp_path / "fresh"
    subprocess.run([sys.executable, "-m", "venv", "--without-pip", str(fresh)], check=True)
    python = fresh / "bin" / "python"
    subprocess.run(
        [sys.executable, "-m", "pip", "--python", str(python), "install", "--quiet", "--no-deps", "--no-index", str(wheel)],
        check=True, capture_output=True, timeout=120,
    )  # fmt: skip
    # What it runs with is taken from here: fetching it is pip's work, not ours.
    [site] = (fresh / "lib").glob("python3*/site-packages")
    [here] = (Path(sys.prefix) / "lib").glob("python3*/site-packages")
    (site / "zz-what-it-runs-with.pth").write_text(f"{here}\n")
    assert (fresh / "share/redlantern/demo/documents/condition-survey.pdf").is_file()
    environment = os.environ | {"XDG_DATA_HOME": str(tmp_path / "data"), "REDLANTERN_EMBEDDING": "english"}
    told = subprocess.run(
        [str(python), "-P", "-c", "import redlantern; print(redlantern.__file__)"],
        capture_output=True,
        text=True,
        cwd=tmp_path,
    )
    assert str(fresh) in told.stdout
    done = subprocess.run(
        [str(fresh / "bin" / "redlantern"), "index", "a.redlantern", str(ROOT / "demo/documents/letters")],
        env=environment, cwd=tmp_path, capture_output=True, text=True, timeout=120,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr[-2000:]


_KILLED = """
import os, signal, sys
from pathlib import Path
from shipping import install
real = install.put_bytes if sys.argv[1] == "files" else None
def die(*_):
    os.kill(os.getpid(), signal.SIGKILL)
if sys.argv[1] == "files":
    install.put_bytes = die
elif sys.argv[1] == "command":
    Path.symlink_to = die
else:
    install._refresh = die
install.install(Path("/usr/bin/true"))
"""


@pytest.mark.parametrize("at", ["files", "command", "end"])
def test_killed_in_the_midst_it_can_be_done_again_or_taken_away_whole(at_home, at):
    environment = os.environ | {"QT_QPA_PLATFORM": "offscreen"}
    killed = subprocess.run([sys.executable, "-c", _KILLED, at], cwd=ROOT, env=environment, timeout=60)
    assert killed.returncode == -9
    if at == "end":
        assert installed().returncode == 0, "what was put is known to be ours"
    assert installed("--uninstall").returncode == 0
    assert [path for path in files_in(at_home) if path.name not in _OF_THE_DESKTOP] == []


def test_a_list_that_was_changed_takes_nothing_away_that_is_not_ours(at_home):
    mine = [
        at_home / "letter.txt",
        at_home / "data" / "redlantern" / "collections.json",
        at_home / "data" / "notes.txt",
    ]
    for path in mine:
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text("mine")
    listed = [*map(str, mine), f"{at_home}/data/../letter.txt", "/etc/hostname", f"{at_home}/data/redlantern/keys", 7]
    noted = at_home / "data" / "redlantern" / "installed-files.json"
    noted.write_text(json.dumps(listed))
    assert installed("--uninstall").returncode == 0
    assert all(path.read_text() == "mine" for path in mine)
