# SPDX-License-Identifier: GPL-3.0-or-later
"""How files are called in the dialogs that ask for one."""

from redlantern.translation import tr

COLLECTION_ENDING = ".redlantern"
COLLECTIONS = tr("Collections (*{collection_ending})").format(collection_ending=COLLECTION_ENDING)
ALL_THAT_CAN_BE_READ = tr(
    "All that can be read (*);;PDF (*.pdf);;Office (*.docx *.pptx *.xlsx *.odt *.odp *.ods);;Mail (*.eml *.mbox)"
)
