"""Splits what was read by the settings of a method, the same way for keeping and for a look."""

from redlantern.models.embedding import Embedder
from redlantern.reading.values import ReadFile
from redlantern.settings import Method
from redlantern.splitting.passages import Passage, split_pages


def split_read(read: ReadFile, embedder: Embedder, method: Method) -> list[Passage]:
    """Split a document into passages that the embedding model can take."""
    return split_pages(
        read.title,
        read.pages,
        embedder.count_tokens,
        most_tokens=min(method.passage_tokens, embedder.most_tokens),
        overlap_tokens=method.overlap_tokens,
        by_heading=method.by_heading,
        by_record=method.by_record,
        language=read.language,
    )
