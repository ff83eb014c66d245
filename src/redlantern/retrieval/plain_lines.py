"""Lines of documents as a person would say them: what the embedding model understands best."""

from redlantern.reading.values import CELL_SEPARATOR
from redlantern.splitting.passages import HEADER_CELL_SEPARATOR, HEADING_SEPARATOR
from redlantern.text.dates import dates_in_words


def line_in_words(line: str, heading: str) -> str:
    """A line with what it stands under, as a sentence is read: its innermost heading, or a row's cells with their column
    names; dates written out.
    """
    if CELL_SEPARATOR in line:
        return row_in_words(line, heading)
    innermost = heading.rsplit(HEADING_SEPARATOR, 1)[-1]
    text = f"{innermost}: {line}" if innermost and innermost not in line else line
    return dates_in_words(" ".join(text.split()))


def cells_of(row: str, heading: str) -> list[tuple[str, str]]:
    """The cells of a table's row as (name of the column, what stands there); empty where the names do not fit."""
    cells = row.split(CELL_SEPARATOR)
    columns = heading.rsplit(HEADING_SEPARATOR, 1)[-1].split(HEADER_CELL_SEPARATOR)
    return list(zip(columns, cells, strict=True)) if len(cells) == len(columns) > 1 else []


def row_in_words(row: str, heading: str) -> str:
    """A row of a table as a sentence is read: what the table is about, and each cell with the name of its column."""
    path, cells = heading.split(HEADING_SEPARATOR), cells_of(row, heading)
    if cells:
        said = (f"{column} {cell}".strip() for column, cell in cells if cell.strip())
        text = ": ".join([*path[-2:-1], ", ".join(said)])
    else:
        text = ": ".join([*path[-1:], ", ".join(cell for cell in row.split(CELL_SEPARATOR) if cell.strip())])
    return dates_in_words(" ".join(text.split()))
