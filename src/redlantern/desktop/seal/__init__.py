"""The seal room: proof of offline, encryption, journal, keys, copies, erasing."""
