"""Signing in, by a clock of our own: guessing gets slower, sessions end, no password is kept as it is."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from pwdlib import PasswordHash

from vane_line.errors import BadOption, Conflict, NotFound, NotSignedIn
from vane_line.service import people
from vane_line.store import people as kept
from vane_line.store.database import Database

PASSWORD = "reeds and tidal mud"


@pytest.fixture
def db(tmp_path: Path) -> Database:
    store = Database(tmp_path / "store.sqlite")
    people.add(store, "SO-07", "dentist", PASSWORD)
    return store


def later(**by: float) -> people.Clock:
    return lambda: datetime.now(UTC) + timedelta(**by)


def test_a_session_says_who_it_is_and_is_ended(db: Database) -> None:
    """By the token alone; signed out here it is over here, signed out everywhere it is over everywhere."""
    person, one = people.sign_in(db, "so-07", PASSWORD)
    _, other = people.sign_in(db, "SO-07", PASSWORD)
    assert person.role == "dentist"
    for token in (one, other):
        found = people.who(db, token)
        assert found is not None
        assert found.id == person.id
    people.sign_out(db, one)
    assert people.who(db, one) is None
    assert people.who(db, other) is not None
    kept.end_sessions(db, person.id)
    assert people.who(db, other) is None
    assert people.who(db, "made up") is None
    assert people.who(db, None) is None


def test_neither_password_nor_token_lies_in_the_store(db: Database, tmp_path: Path) -> None:
    """Only what was made of them: an argon2 hash and a digest, other ones for the same password."""
    _, token = people.sign_in(db, "SO-07", PASSWORD)
    people.add(db, "SO-08", "dentist", PASSWORD)
    first, second = (p.password_hash for p in kept.list_people(db))
    assert first.startswith("$argon2id$")
    assert first != second
    db.connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    raw = (tmp_path / "store.sqlite").read_bytes()
    assert PASSWORD.encode() not in raw
    assert token.encode() not in raw


def test_a_password_is_kept_by_work_enough(kept_hasher: PasswordHash) -> None:
    """At least the second recommended setting of RFC 9106, section 4: argon2id, 64 MiB, three passes, four lanes."""
    kind, version, settings = kept_hasher.hash(PASSWORD).split("$")[1:4]
    work = {name: int(value) for name, value in (pair.split("=") for pair in settings.split(","))}
    assert (kind, version) == ("argon2id", "v=19")
    assert work["m"] >= 64 * 1024
    assert work["t"] >= 3
    assert work["p"] >= 4


@pytest.mark.parametrize(
    ("asked", "ended"),
    [(people.IDLE - timedelta(minutes=1), False), (people.IDLE + timedelta(minutes=1), True),
     (people.LONGEST + timedelta(minutes=1), True)],
)  # fmt: skip
def test_a_session_ends_by_itself(db: Database, asked: timedelta, ended: bool) -> None:
    _, token = people.sign_in(db, "SO-07", PASSWORD)
    found = people.who(db, token, later(seconds=asked.total_seconds()))
    assert (found is None) is ended


def test_guessing_gets_slower_and_tells_nothing(db: Database) -> None:
    """Five tries are free; then every name waits, ever longer, whether anybody has it or not; the right password waits
    too; after waiting it opens, and the count begins anew."""
    said = set()
    for name in ("SO-07", "nobody"):
        for _ in range(people.FREE_TRIES):
            with pytest.raises(NotSignedIn) as refused:
                people.sign_in(db, name, "wrong as can be")
            said.add(str(refused.value))
        with pytest.raises(NotSignedIn, match=r"wait 1[45] seconds"):
            people.sign_in(db, name, PASSWORD)
    assert len(said) == 1  # which of both is wrong is not told
    with pytest.raises(NotSignedIn, match="belong together"):
        people.sign_in(db, "SO-07", "wrong again", later(seconds=16))
    with pytest.raises(NotSignedIn, match=r"wait (29|30) seconds"):
        people.sign_in(db, "SO-07", PASSWORD)
    assert people.sign_in(db, "SO-07", PASSWORD, later(seconds=31))[0].name == "SO-07"
    with pytest.raises(NotSignedIn, match="belong together"):
        people.sign_in(db, "SO-07", "once more")


def test_no_wait_is_longer_than_the_longest(db: Database) -> None:
    for _ in range(60):
        kept.add_failure(db, "SO-07", "2000-01-01")
    with pytest.raises(NotSignedIn, match=r"wait (899|900)"):
        people.sign_in(db, "SO-07", PASSWORD)


def test_old_failures_are_forgotten(db: Database) -> None:
    """The table of failures does not grow for ever."""
    for k in range(30):
        kept.add_failure(db, f"made-up-{k}", "2000-01-01")
    kept.add_failure(db, "one", "2999-01-01")
    assert [row["name"] for row in db.rows("SELECT name FROM failed_sign_ins")] == ["one"]


def test_a_new_password_ends_every_session(db: Database) -> None:
    person, token = people.sign_in(db, "SO-07", PASSWORD)
    people.change_password(db, person.id, "another long sentence")
    assert people.who(db, token) is None
    with pytest.raises(NotSignedIn):
        people.sign_in(db, "SO-07", PASSWORD)
    assert people.sign_in(db, "SO-07", "another long sentence")[0].id == person.id


def test_what_cannot_be_is_refused(db: Database) -> None:
    with pytest.raises(BadOption, match="12 to 200"):
        people.add(db, "SO-09", "dentist", "too short")
    with pytest.raises(BadOption, match="role king"):
        people.add(db, "SO-09", "king", PASSWORD)
    with pytest.raises(BadOption, match="name"):
        people.add(db, " ", "dentist", PASSWORD)
    with pytest.raises(BadOption, match="name"):
        people.add(db, "SO\n09", "dentist", PASSWORD)
    with pytest.raises(Conflict, match="already"):
        people.add(db, "so-07", "student", PASSWORD)
    with pytest.raises(NotFound):
        people.change_password(db, "none", PASSWORD)


def test_the_last_owner_stays(db: Database) -> None:
    assert people.first_owner(db, None) is None  # somebody is there
    owner = people.add(db, "owner", "owner", PASSWORD)
    with pytest.raises(BadOption, match="last owner"):
        people.remove(db, owner.id)
    people.add(db, "second", "owner", PASSWORD)
    people.remove(db, owner.id)
    assert {p.name for p in kept.list_people(db)} == {"SO-07", "second"}


def test_the_first_owner_gets_a_password(tmp_path: Path) -> None:
    fresh = Database(tmp_path / "fresh.sqlite")
    made = people.first_owner(fresh, None)
    assert made is not None
    assert people.sign_in(fresh, "owner", made)[0].role == "owner"
    given = Database(tmp_path / "given.sqlite")
    assert people.first_owner(given, PASSWORD) is None
    assert people.sign_in(given, "owner", PASSWORD)[0].role == "owner"
