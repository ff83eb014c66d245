# SPDX-License-Identifier: GPL-3.0-or-later
import os
import stat
import subprocess
import sys

import pytest

from redlantern.safety import keys, passphrases, places, secretstore
from redlantern.safety.keys import Holding


class FakeStore:
    """A secret store in memory."""

    def __init__(self):
        self.kept = {}

    def set_password(self, service, name, secret):
        self.kept[service, name] = secret

    def get_password(self, service, name):
        return self.kept.get((service, name))

    def delete_password(self, service, name):
        del self.kept[service, name]


@pytest.fixture
def fake_store(monkeypatch):
    store = FakeStore()
    monkeypatch.setattr(secretstore, "_store", lambda: store)
    return store


def test_a_key_in_a_file_is_random_private_and_never_overwritten():
    salt, key = keys.new_key(Holding.FILE)
    assert len(key) == keys.KEY_BYTES
    assert keys.find_key(salt) == key
    assert keys.holding_of(salt) is Holding.FILE
    assert stat.S_IMODE(keys.key_path(salt).stat().st_mode) == 0o600
    with pytest.raises(FileExistsError):
        keys._write_key(keys.key_path(salt), key)
    assert keys.new_key(Holding.FILE)[1] != key


def test_a_passphrase_is_kept_nowhere_and_gives_the_same_key_again():
    salt, key = keys.new_key(Holding.PASSPHRASE, "ein längerer Satz")
    assert keys.holding_of(salt) is Holding.PASSPHRASE
    assert not keys.key_path(salt).exists()
    assert keys.find_key(salt, "ein längerer Satz") == key
    # The same letter typed as a base letter and an accent.
    assert keys.find_key(salt, "ein la\u0308ngerer Satz") == key


def test_a_wrong_passphrase_and_none_are_told_apart():
    salt, _ = keys.new_key(Holding.PASSPHRASE, "right")
    for wrong in ("wrong", "Right", "right ", ""):
        with pytest.raises(keys.WrongPassphraseError) as refused:
            keys.find_key(salt, wrong)
    assert str(refused.value) == (
        "This is not the passphrase. The collection is untouched; try again. Capital letters and blanks count."
    )
    with pytest.raises(keys.PassphraseNeededError):
        keys.find_key(salt)
    with pytest.raises(keys.PassphraseNeededError):
        keys.new_key(Holding.PASSPHRASE, "")


def test_the_cost_of_a_passphrase_is_never_low_and_survives_packing():
    cost = passphrases.measured_cost()
    assert (cost.passes >= 3, cost.log2_kib >= 16) == (True, True)
    for one in (cost, passphrases.Cost(64, 17), passphrases.Cost(3, 16, 1)):
        assert passphrases.Cost.unpacked(one.packed()) == one
    # 255 passes over 1 GiB would take minutes; no collection of ours asks for that.
    for packed in (b"\xff\x44", b"\xff\xff", b"\x03\xf4", bytes([64, 4 << 4 | 4])):
        with pytest.raises(passphrases.CostTooHighError) as told:
            passphrases.Cost.unpacked(packed)
        assert "ask for far more work than any" in str(told.value)


def test_the_derivation_is_argon2id_of_the_rfc():
    # The first bytes of what the reference implementation gives for these inputs (argon2 -id -t 3 -m 16 -p 4).
    reference = subprocess.run(
        [sys.executable, "-c", _REFERENCE], capture_output=True, text=True, check=True
    ).stdout.strip()  # fmt: skip
    assert passphrases.derive("password", b"somesalt", passphrases.Cost(3, 16, 4), 32).hex() == reference


_REFERENCE = """
from argon2 import PasswordHasher, Type
from argon2.low_level import hash_secret
import base64
encoded = hash_secret(b"password", b"somesalt", 3, 65536, 4, 32, Type.ID).decode()
assert encoded.startswith("$argon2id$v=19$m=65536,t=3,p=4$")
print(base64.b64decode(encoded.split("$")[-1] + "=").hex())
"""


def test_the_secret_store_holds_a_key_until_it_is_destroyed(fake_store):
    salt, key = keys.new_key(Holding.LOGIN)
    assert keys.holding_of(salt) is Holding.LOGIN
    assert keys.find_key(salt) == key
    assert not keys.key_path(salt).exists()
    keys.destroy_key(salt)
    assert keys.find_key(salt) is None
    assert fake_store.kept == {}


def test_a_destroyed_key_file_is_gone():
    salt, _ = keys.new_key(Holding.FILE)
    keys.destroy_key(salt)
    assert keys.find_key(salt) is None
    keys.destroy_key(salt)  # a second time does no harm


def test_a_login_without_a_secret_store_is_told(monkeypatch):
    monkeypatch.delenv("DBUS_SESSION_BUS_ADDRESS", raising=False)
    monkeypatch.setenv("XDG_RUNTIME_DIR", "/nonexistent")
    assert not secretstore.is_there()
    with pytest.raises(secretstore.SecretStoreError) as told:
        secretstore.keep("name", "secret")
    assert "Nothing was changed" in str(told.value)


_IN_A_LOGIN = """
import sys
from redlantern.safety import keys, seal
from redlantern.safety.keys import Holding
assert seal.put_on().is_on
salt, key = keys.new_key(Holding.LOGIN)
assert keys.find_key(salt) == key
keys.destroy_key(salt)
assert keys.find_key(salt) is None
print("held and forgotten")
"""


def test_a_real_secret_store_is_reached_from_within_the_seal(tmp_path):
    """A desktop's own store, on a message bus of the test's; it takes about a second to start."""
    (tmp_path / "run").mkdir(mode=0o700)
    script = f"printf pw | gnome-keyring-daemon --unlock --components=secrets >/dev/null 2>&1; exec {sys.executable} -c '{_IN_A_LOGIN}'"
    environment = os.environ | {"HOME": str(tmp_path), "XDG_RUNTIME_DIR": str(tmp_path / "run")}
    environment |= {"XDG_DATA_HOME": str(tmp_path / "data")}
    done = subprocess.run(
        ["dbus-run-session", "--", "sh", "-c", script], env=environment, capture_output=True, text=True, timeout=60, check=False
    )  # fmt: skip
    assert done.stdout.strip() == "held and forgotten", done.stderr


def test_no_key_is_found_for_an_unknown_salt():
    assert keys.find_key(b"\0" * 16) is None
    assert keys.holding_of(b"") is None


def test_private_directories_are_closed_to_others(tmp_path):
    place = tmp_path / "open"
    place.mkdir(mode=0o755)
    places.private_directory(place)
    assert stat.S_IMODE(place.stat().st_mode) == 0o700


def test_a_link_is_not_taken_for_a_private_directory(tmp_path):
    (tmp_path / "real").mkdir()
    (tmp_path / "link").symlink_to(tmp_path / "real")
    with pytest.raises(places.PlaceNotPrivateError):
        places.private_directory(tmp_path / "link")
