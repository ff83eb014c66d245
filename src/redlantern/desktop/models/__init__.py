# SPDX-License-Identifier: GPL-3.0-or-later
"""The models room: bring in, check and choose the embedding and the language model."""
