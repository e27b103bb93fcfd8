"""Finding anything by a few words."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from bastler.app.finding import KINDS, MOST, MOST_OF_A_KIND, Entry, found


def entry(says: str, kind: str = "Question", beside: str = "", also: str = "") -> Entry:
    return Entry(kind, says, lambda: None, beside, also)


def test_every_word_has_to_be_there_in_any_order() -> None:
    entries = [entry("Down per pass", beside="2 Gear well"), entry("Down per pass", beside="3 Pawl seat"), entry("Stepover")]
    assert [e.beside for e in found(entries, "well down")] == ["2 Gear well"]
    assert found(entries, "down nowhere") == []
    assert found(entries, "") == found(entries, "   ") == []


def test_what_begins_so_goes_before_what_has_it_somewhere() -> None:
    names = ["Unfeeding", "The feed", "Feed rate", "Other"]
    entries = [entry(n, also="feed" if n == "Other" else "") for n in names]
    assert [e.says for e in found(entries, "FEED")] == ["Feed rate", "The feed", "Unfeeding", "Other"]


def test_no_kind_crowds_out_the_others() -> None:
    lines = [entry(f"G1 X{k}", "Program line") for k in range(500)]
    seen = found([*lines, entry("G1 is no tool", "Tool")], "g1")
    assert len([e for e in seen if e.kind == "Program line"]) == MOST_OF_A_KIND
    assert seen[0].kind == "Tool"
    many_kinds = [entry("same", kind) for kind in KINDS for _ in range(50)]
    assert len(found(many_kinds, "same")) == MOST


@given(st.lists(st.tuples(st.sampled_from(KINDS), st.text(max_size=12), st.text(max_size=8))), st.text(max_size=8))
def test_whatever_is_typed_only_what_has_all_of_it_is_found(things: list[tuple[str, str, str]], typed: str) -> None:
    for one in found([entry(says, kind, beside) for kind, says, beside in things], typed):
        for word in typed.casefold().split():
            assert word in f"{one.says} {one.beside}".casefold()
