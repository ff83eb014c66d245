# SPDX-License-Identifier: GPL-3.0-or-later
"""Puts Red Lantern onto the desktop of this login, without root, and takes it off again: `./run install [--uninstall]`.

The program itself stays where it was set up; what is put in place is its command,
launcher, icons, kind of file, pages for people and the completion of the shell.
All that was put is written down, and nothing else is taken away again.
"""

import argparse
import json
import os
import shutil
import subprocess
import sys
from pathlib import Path

from redlantern.safety.places import private_directory
from redlantern.safety.placing import put_bytes, put_text
from shipping.icons import NAME, icon_files, write_icons

HERE = Path(__file__).parent
_LIST = "installed-files.json"
_REFRESHED = (
    ("update-desktop-database", "applications"),
    ("update-mime-database", "mime"),
    ("gtk-update-icon-cache", "icons/hicolor"),
)


def data_home() -> Path:
    """Where a login's desktop looks (XDG base directories)."""
    return Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share")


def command_home() -> Path:
    """Where a login's own commands are."""
    return Path.home() / ".local" / "bin"


def install(program: Path) -> list[Path]:
    """Put everything in place, so that `program` is started; gives the files.

    Raises
    ------
    FileExistsError
        If a command of our name is there that is not ours.
    """
    share, command = data_home(), command_home() / "redlantern"
    if os.path.lexists(command) and command not in _put():
        raise FileExistsError(f"{command} is there already, and was not put there by Red Lantern. Nothing was changed.")
    theme = share / "icons" / "hicolor"
    copies = {
        f"{NAME}.metainfo.xml": share / "metainfo" / f"{NAME}.metainfo.xml",
        f"{NAME}.mime.xml": share / "mime" / "packages" / f"{NAME}.xml",
        "redlantern.1": share / "man" / "man1" / "redlantern.1",
        "redlantern.bash": share / "bash-completion" / "completions" / "redlantern",
    }
    launcher = share / "applications" / f"{NAME}.desktop"
    files = [*icon_files(theme), *copies.values(), launcher, command]
    # Written down before anything is put: what is broken off can be gone on with, or taken away.
    _note(files)
    for path in files:
        path.parent.mkdir(parents=True, exist_ok=True)
    write_icons(theme)
    for source, target in copies.items():
        put_bytes(target, (HERE / source).read_bytes())
    # By its whole path: the folder of a login's commands is not on every desktop's path.
    text = (HERE / f"{NAME}.desktop").read_text(encoding="utf-8")
    put_text(launcher, text.replace("Exec=redlantern ", f"Exec={_quoted(command)} "))
    command.unlink(missing_ok=True)
    command.symlink_to(program)
    _refresh(share)
    return files


def uninstall() -> list[Path]:
    """Take away what was put in place; gives the files. Collections, keys and settings stay."""
    removed = []
    for path in _put():
        if path.is_file() or path.is_symlink():
            path.unlink()
            removed.append(path)
    _noted().unlink(missing_ok=True)
    _refresh(data_home())
    return removed


def _noted() -> Path:
    return data_home() / "redlantern" / _LIST


def _note(files: list[Path]) -> None:
    private_directory(_noted().parent)
    put_text(_noted(), json.dumps([str(path) for path in dict.fromkeys([*_put(), *files])], indent=1))


def _put() -> list[Path]:
    """What was written down as put, if it lies where such things are put: nothing else is ever taken away."""
    try:
        found = json.loads(_noted().read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return []
    paths = [Path(path) for path in found if isinstance(path, str)] if isinstance(found, list) else []
    homes = (data_home(), command_home())
    return [
        path
        for path in paths
        if ".." not in path.parts
        and any(path.is_relative_to(home) for home in homes)
        and (NAME in path.name or path.name.startswith("redlantern"))
        and not path.is_relative_to(_noted().parent)
    ]


def _quoted(path: Path) -> str:
    """As a launcher wants a path that may hold blanks (Desktop Entry Specification, the Exec key)."""
    escaped = "".join(f"\\\\{sign}" if sign in '"`$\\' else sign for sign in str(path)).replace("%", "%%")
    return f'"{escaped}"'


def _refresh(share: Path) -> None:
    """Let the desktop look again, with what it has for that."""
    for command, folder in _REFRESHED:
        found = shutil.which(command)
        if found is not None and (share / folder).is_dir():
            subprocess.run([found, str(share / folder)], check=False, capture_output=True)


def main() -> int:
    """Install, or take away."""
    parser = argparse.ArgumentParser(
        prog="./run install", description="Puts Red Lantern onto the desktop of this login."
    )
    parser.add_argument("--uninstall", action="store_true", help="take it off again; collections and keys stay")
    given = parser.parse_args()
    if given.uninstall:
        removed = uninstall()
        print(f"{len(removed)} files were taken away. Collections, keys and settings are as they were.")
        return 0
    try:
        written = install(Path(sys.prefix) / "bin" / "redlantern")
    except FileExistsError as failure:
        print(f"redlantern: {failure}", file=sys.stderr)
        return 1
    print(f"Red Lantern is among the programs of your desktop now, and `redlantern` a command ({len(written)} files).")
    if str(command_home()) not in os.environ.get("PATH", "").split(os.pathsep):
        print(f"For the command, {command_home()} must be on your PATH; the launcher does not need that.")
    return 0


if __name__ == "__main__":
    sys.exit(main())
