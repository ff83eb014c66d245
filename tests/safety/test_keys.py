import stat

import pytest

from redlantern.safety import keys, places


def test_a_key_is_random_private_and_never_overwritten():
    salt = keys.new_salt()
    key = keys.make_key(salt)
    assert len(key) == keys.KEY_BYTES
    assert keys.find_key(salt) == key
    assert stat.S_IMODE(keys.key_path(salt).stat().st_mode) == 0o600
    with pytest.raises(FileExistsError):
        keys.make_key(salt)
    assert keys.make_key(keys.new_salt()) != key


def test_no_key_is_found_for_an_unknown_salt():
    assert keys.find_key(b"\0" * 16) is None


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
