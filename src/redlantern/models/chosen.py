"""Which language model to use: the file asked for, the owner's own server if one was chosen, or the packaged one."""

from pathlib import Path

from redlantern.models.language import HostedModel, LanguageModel
from redlantern.models.served import ServedModel
from redlantern.safety import loopback


def chosen_language_model(model: Path | None = None) -> LanguageModel:
    """Make the model; it starts when first needed."""
    link = loopback.link()
    if model is None and link is not None:
        return ServedModel(link)
    return HostedModel(model)
