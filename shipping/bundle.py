# SPDX-License-Identifier: GPL-3.0-or-later
"""Copies every packaged model that is here into a folder, for a machine without a network: `./run bundle FOLDER`.

There `redlantern models add FOLDER` checks each file's hash and puts it in its place.
"""

import argparse
import shutil
import sys
from pathlib import Path

from redlantern.models.adding import packaged_files

_WORDS = """These are the models of Red Lantern. On the other machine:

    redlantern models add FOLDER

Each file is compared with the SHA-256 that the program was released with; SHA256SUMS lists them for `sha256sum -c`.
"""


def bundle(folder: Path) -> int:
    """Copy the files; gives how many."""
    folder.mkdir(parents=True, exist_ok=True)
    listed = []
    for each in packaged_files():
        found = each.found()
        if found is None:
            print(f"{each.name} is not here and is left out.", file=sys.stderr)
            continue
        target = folder / each.file_name
        if not target.exists() or target.stat().st_size != found.stat().st_size:
            shutil.copyfile(found, target)
        listed.append(f"{each.sha256}  {each.file_name}\n")
        print(f"{each.file_name}  {target.stat().st_size / 2**20:.0f} MiB", flush=True)
    (folder / "SHA256SUMS").write_text("".join(listed), encoding="ascii")
    (folder / "README.txt").write_text(_WORDS, encoding="utf-8")
    return len(listed)


def main() -> int:
    """Make the folder."""
    parser = argparse.ArgumentParser(prog="./run bundle", description="Copies the packaged models into a folder.")
    parser.add_argument("folder", type=Path, metavar="FOLDER")
    return 0 if bundle(parser.parse_args().folder) else 1


if __name__ == "__main__":
    sys.exit(main())
