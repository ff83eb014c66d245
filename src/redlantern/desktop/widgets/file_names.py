# SPDX-License-Identifier: GPL-3.0-or-later
"""How files are called in the dialogs that ask for one."""

COLLECTION_ENDING = ".redlantern"
COLLECTIONS = f"Collections (*{COLLECTION_ENDING})"
ALL_THAT_CAN_BE_READ = (
    "All that can be read (*);;PDF (*.pdf);;Office (*.docx *.pptx *.xlsx *.odt *.odp *.ods);;Mail (*.eml *.mbox)"
)
