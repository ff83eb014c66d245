# SPDX-License-Identifier: GPL-3.0-or-later
"""The seal room: proof of offline, encryption, journal, keys, copies, erasing."""
