# SPDX-License-Identifier: GPL-3.0-or-later
"""How Red Lantern gets onto a desktop: launcher, icons, pages, packages. Nothing of it is needed to run."""
