# SPDX-License-Identifier: GPL-3.0-or-later
"""Keeps collections: backs them up, gives them another key, moves, mends and erases them.

Whatever replaces or removes a file has it alone from the first byte that it
reads to the end (`CollectionFile.alone`), so each can be interrupted or raced
and loses nothing. Keys are destroyed last, and only when nothing known needs them.
"""

from redlantern.collection.upkeep.backup import back_up as back_up
from redlantern.collection.upkeep.documents import Erased as Erased
from redlantern.collection.upkeep.documents import erase_documents as erase_documents
from redlantern.collection.upkeep.documents import remnants as remnants
from redlantern.collection.upkeep.erasing import ErasedCollection as ErasedCollection
from redlantern.collection.upkeep.erasing import erase_collection as erase_collection
from redlantern.collection.upkeep.moving import move as move
from redlantern.collection.upkeep.rekeying import change_key as change_key
from redlantern.collection.upkeep.tidying import tidy as tidy
