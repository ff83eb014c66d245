# SPDX-License-Identifier: GPL-3.0-or-later
"""Measures reading alone, without embedding: pages a second of a long digital PDF, seconds for a scanned page, memory of the
process that asks.

The long document is set anew for each run from the demo's own contract, so it is prose and tables as in the demo.
"""

import gc
import io
import resource
import tempfile
import time
from pathlib import Path
from typing import Any

import pypdfium2

from redlantern.progress import Cancel
from redlantern.reading.pool import ReaderPool
from redlantern.reading.values import ReadFile

DEMO = Path(__file__).parents[1] / "demo" / "documents"
N_PAGES = 600
N_SCANS = 8
SCAN_DPI = 300


def measure() -> dict[str, float]:
    """Every figure is one run on this machine, with readers that had been started before."""
    with tempfile.TemporaryDirectory() as folder:
        long, scans = Path(folder) / "long.pdf", Path(folder) / "scans.pdf"
        _write_long(long)
        _write_scans(scans)
        return {"ten million additions in plain Python, seconds": _calibration()} | _digital(long) | _scanned(scans)


def show(result: dict[str, float]) -> None:
    """Print one figure a line."""
    for name, value in result.items():
        print(f"{name:62}{value:10.2f}")


def as_json(result: dict[str, float]) -> dict[str, Any]:
    """The figures as they are."""
    return result


def _calibration() -> float:
    """How fast this machine is just now: a shared one may be at half its speed."""
    began, total = time.perf_counter(), 0
    for number in range(10_000_000):
        total += number
    return time.perf_counter() - began


def _digital(path: Path) -> dict[str, float]:
    read, seconds, grown_mb = _timed(path)
    n_chars = sum(len(page.text) for page in read.pages)
    return {
        "digital PDF, pages": len(read.pages),
        "digital PDF, characters a page": n_chars / len(read.pages),
        "digital PDF, pages a second on two cores": len(read.pages) / seconds,
        "digital PDF, growth of the parent's memory, MB": grown_mb,
    }


def _scanned(path: Path) -> dict[str, float]:
    read, seconds, _ = _timed(path)
    n_recognised = sum(page.origin == "recognised" for page in read.pages)
    return {
        "scanned PDF, pages recognised": n_recognised,
        "scanned PDF, characters a page": sum(len(page.text) for page in read.pages) / len(read.pages),
        "scanned PDF, seconds a page and core": seconds / max(1, n_recognised),
        "scanned PDF, mean confidence": sum(page.confidence for page in read.pages) / len(read.pages),
    }


def _timed(path: Path) -> tuple[ReadFile, float, float]:
    # One reader, so that the figures for a core are those of a core; a long file takes the other core by itself.
    pool = ReaderPool(1)
    try:
        pool.read(DEMO / "condition-survey.pdf", Cancel())
        gc.collect()
        before = _resident_mb()
        began = time.perf_counter()
        read = pool.read(path, Cancel())
        seconds = time.perf_counter() - began
        return read, seconds, _resident_mb() - before
    finally:
        pool.close()


def _resident_mb() -> float:
    n_pages = int(Path("/proc/self/statm").read_text().split()[1])
    return n_pages * resource.getpagesize() / 2**20


def _write_long(path: Path) -> None:
    source = pypdfium2.PdfDocument(DEMO / "contract" / "contract.pdf")
    target = pypdfium2.PdfDocument.new()
    for at in range(0, N_PAGES, len(source)):
        target.import_pages(source, list(range(min(len(source), N_PAGES - at))))
    target.save(str(path))


def _write_scans(path: Path) -> None:
    from reportlab.lib.utils import ImageReader
    from reportlab.pdfgen.canvas import Canvas

    source = pypdfium2.PdfDocument(DEMO / "contract" / "contract.pdf")
    canvas = Canvas(str(path))
    for index in range(N_SCANS):
        page = source[1 + index % (len(source) - 1)]
        picture = io.BytesIO()
        page.render(scale=SCAN_DPI / 72, grayscale=True).to_pil().save(picture, "PNG")
        canvas.setPageSize(page.get_size())
        canvas.drawImage(ImageReader(picture), 0, 0, *page.get_size())
        canvas.showPage()
    canvas.save()
