# SPDX-License-Identifier: GPL-3.0-or-later
"""The ways of answering that a collection can be asked in on this machine, with what each is likely to take."""

from dataclasses import dataclass, replace

from redlantern.answering.engine import Engine
from redlantern.application.models import reader_choices
from redlantern.indexing import tried
from redlantern.models.readers import answer_s
from redlantern.settings import declared_settings
from redlantern.translation import tr
from redlantern.trials.values import MEMORY, NO_READER, Arrangement, changeable

_LINES_S, _ANSWER_S = 0.8, 15.0
"""What a question takes without a language model, and with one, until this machine has shown it."""
TRIED_SETTINGS = ("word_weight", "reranked", "passages_kept", "found_lines", "answer_threshold", "prompt_tokens")
"""The settings that are offered to be tried with another value, what finds first."""

QUICK_WAYS = (
    Arrangement(tr("Found lines"), NO_READER),
    Arrangement(tr("Found lines by meaning alone"), NO_READER, {"word_weight": 0.0, "reranked": 0}),
)
"""Two ways that take seconds: what the words of a question are worth beside its meaning."""


@dataclass(frozen=True)
class Way:
    """A way of answering as it is offered: what it does in a sentence, and about how many seconds a question takes."""

    arrangement: Arrangement
    explained: str
    seconds: float


def ways(engine: Engine) -> list[Way]:
    """The ways there are, the quickest first, then the collection's own."""
    found = [
        Way(
            QUICK_WAYS[0],
            tr("Without a language model: the documents' own lines, refused by evidence alone."), _LINES_S,
        )
    ]  # fmt: skip
    model = engine.language_model
    own_s = (answer_s(model.pace) or _ANSWER_S) if model is not None else 0.0
    if model is None:
        return [*found, *_of_copies(engine, own_s)]
    found.append(
        Way(
            Arrangement(tr("As it is")),
            tr("As questions are answered now, with {name}.").format(name=model.name),
            own_s,
        )
    )
    for choice in reader_choices():
        if choice.is_there and choice.name != model.name:
            arrangement = Arrangement(tr("The {word} reader").format(word=choice.word), choice.word)
            found.append(
                Way(
                    arrangement,
                    tr("With {name} in the model's place.").format(name=choice.name),
                    choice.answer_s or _ANSWER_S,
                )
            )
    explained = tr("What {name} says by itself. Nothing of it stands on your documents.").format(name=model.name)
    found.append(Way(Arrangement(tr("Without documents"), MEMORY), explained, own_s))
    return [*found, *_of_copies(engine, own_s)]


def _of_copies(engine: Engine, own_s: float) -> list[Way]:
    """The ways by copies beside the collection."""
    found, model = list[Way](), engine.language_model
    for copy in tried.list_tried(engine.collection):
        explained = tr("By the other index beside the collection: {name}.").format(name=copy.name)
        arrangement = Arrangement(tr("Found lines by {name}").format(name=copy.name), NO_READER, copy=copy.word)
        found.append(
            Way(arrangement, tr("Without a language model. {explained}").format(explained=explained), _LINES_S)
        )
        if model is not None:
            found.append(
                Way(Arrangement(tr("As it is, by {name}").format(name=copy.name), copy=copy.word), explained, own_s)
            )
    return found


def changed_way(way: Way, settings: dict[str, float], *, has_thread: bool = True, pattern: str = "") -> Way:
    """The way with other settings, without the thread, or of some documents only; named by what differs."""
    said = [f"{setting_words(name)} {value:g}" for name, value in settings.items()]
    said += [] if has_thread else [tr("without the thread")]
    said += [tr("only {pattern}").format(pattern=pattern)] if pattern else []
    if not said:
        return way
    name = f"{way.arrangement.name} ({', '.join(said)})"
    return replace(
        way, arrangement=replace(
            way.arrangement, name=name, settings=dict(settings), has_thread=has_thread, pattern=pattern
        )
    )  # fmt: skip


def setting_words(name: str) -> str:
    """What a setting is called, in a few words."""
    assert name in changeable()
    declared = next(setting for setting in declared_settings() if setting.name == name)
    return str(declared.metadata["words"]).split(",")[0].casefold()
