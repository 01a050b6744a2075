"""Finding a name as people type it: joined, split or with hyphens, both spellings, one mistake.

Nothing here asks the database: an `Index` is made of names and of words, and answers with keys.
"""

import re
from bisect import bisect_right
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from itertools import accumulate
from typing import NamedTuple

from rapidfuzz import process
from rapidfuzz.distance import OSA

from rooms.common.words import fold

SAME_WORD = {
    "centre": "center",
    "fibre": "fiber",
    "grey": "gray",
    "kabob": "kebab",
    "fillet": "filet",
}
"""Words with two spellings, folded to one."""
ANIMALS = {
    "beef": "beef",
    "cow": "beef",
    "steer": "beef",
    "pork": "pork",
    "pig": "pork",
    "hog": "pork",
    "lamb": "lamb",
    "mutton": "lamb",
    "sheep": "lamb",
}
"""Words that say of which animal something is, beside its name."""
SHORT = {
    "bf": "beef",
    "pk": "pork",
    "lmb": "lamb",
    "bnl": "boneless",
    "bl": "boneless",
    "bi": "bone in",
    "ctr": "center",
    "chk": "chuck",
    "rnd": "round",
    "btm": "bottom",
    "insd": "inside",
    "outsd": "outside",
    "rby": "ribeye",
    "strp": "strip",
    "srln": "sirloin",
    "tndrln": "tenderloin",
    "tndr": "tender",
    "brskt": "brisket",
    "shld": "shoulder",
    "shldr": "shoulder",
    "shrt": "short",
    "skrt": "skirt",
    "grnd": "ground",
    "rst": "roast",
    "stk": "steak",
    "chp": "chop",
    "bly": "belly",
    "whl": "whole",
    "ny": "new york",
    "tt": "tri tip",
}
"""What boxes and invoices write short, without a plural's ending: "bnls" is bnl."""
SHORTEST_WITH_A_MISTAKE = 4
(
    NO_HIT,
    IN_GUIDES,
    A_WORD_MISTYPED,
    BEGINS_MISTYPED,
    MISTYPED,
    SPREAD,
    INSIDE,
    WORD_BY_WORD,
    AT_A_WORD,
    BEGINS,
    A_WHOLE_WORD,
    THE_FIRST_WORD,
    SAME,
) = range(13)
"""How well a name is hit, the best last."""

Key = tuple[str, int]
"""What is found: the kind of row and its id."""
Hit = tuple[int, bool, int]
"""How well, whether by a synonym, how long the name is."""


def words_of(text: str) -> list[str]:
    """Folded words, one spelling and one number of each: "Rib-eyes, centre cut" is rib eye center cut."""
    words = re.findall(r"[^\W_]+", re.sub(r"['’]s\b", "", fold(text)))
    return [SAME_WORD.get(word, word) for word in map(_one_of, words)]


def _one_of(word: str) -> str:
    """Without the ending of a plural: "chops" is chop, "bellies" belly."""
    if len(word) > 4 and word.endswith("ies"):
        return f"{word[:-3]}y"
    return word[:-1] if len(word) > 3 and word.endswith("s") and not word.endswith("ss") else word


def written_out(words: Sequence[str]) -> list[str]:
    """Words with those that boxes write short in full."""
    return [full for word in words for full in SHORT.get(word, word).split()]


class Phrase(NamedTuple):
    """One name of a row. `starts`: where its words begin in the joined letters."""

    key: Key
    joined: str
    starts: tuple[int, ...]
    is_synonym: bool


def phrase(key: Key, text: str, *, is_synonym: bool) -> Phrase:
    words = words_of(text)
    starts, at = [], 0
    for word in words:
        starts.append(at)
        at += len(word)
    return Phrase(key, "".join(words), tuple(starts), is_synonym)


@dataclass
class Index:
    """`phrases`: every name. `words`: all words of a row's names; `guides`: words of its guide;
    `animals`: of which animal it is, where that is not in its names."""

    phrases: list[Phrase] = field(default_factory=list)
    words: dict[Key, str] = field(default_factory=dict)
    guides: dict[Key, str] = field(default_factory=dict)
    animals: dict[Key, str] = field(default_factory=dict)

    def add(
        self, key: Key, names: Sequence[str], synonyms: Iterable[str] = (), animal: str = ""
    ) -> None:
        """A row with the names it is shown by and the others it is found by."""
        if animal:
            self.animals[key] = animal
        found = [phrase(key, name, is_synonym=False) for name in names if name]
        found += [phrase(key, name, is_synonym=True) for name in synonyms if name]
        self.phrases += [one for one in found if one.joined]
        every = {word for name in (*names, *synonyms) for word in words_of(name or "")}
        self.words[key] = " " + " ".join(sorted(every))

    def add_guide(self, key: Key, text: str) -> None:
        self.guides[key] = " " + " ".join(
            sorted({*words_of(text), *self.guides.get(key, "").split()})
        )

    def find(self, typed: str) -> list[Key]:
        """Keys of what is found, the best first; a typing mistake counts only without a hit."""
        words = words_of(typed)[:6]
        if not words:
            return []
        best = self._named(words, self._hits)
        full = words if best else written_out(words)
        if full != words:
            words, best = full, self._named(full, self._hits)
        best = best or self._named(words, self._mistyped)
        for key, guide in self.guides.items():
            if key not in best and all(f" {word}" in guide for word in words):
                best[key] = (IN_GUIDES, False, 0)
        order = sorted(best.items(), key=lambda hit: (-hit[1][0], hit[1][1], hit[1][2], hit[0]))
        return [key for key, _ in order]

    def _named(
        self, words: list[str], hits: Callable[[list[str]], dict[Key, Hit]]
    ) -> dict[Key, Hit]:
        """Hits of all the words, and where some say the animal ("pork chop"), those of the others,
        behind names that have the animal in them."""
        best = hits(words)
        animals = {ANIMALS[word] for word in words if word in ANIMALS}
        others = [word for word in words if word not in ANIMALS]
        if animals and others:
            for key, hit in hits(others).items():
                if self.animals.get(key) in animals:
                    _keep(best, key, (hit[0], True, hit[2]))
        return best

    def _hits(self, words: list[str]) -> dict[Key, Hit]:
        best: dict[Key, Hit] = {}
        joined = "".join(words)
        for one in self._containing(max(words, key=len)):
            how = _how_well(one, joined, words)
            if how:
                _keep(best, one.key, (how, one.is_synonym, len(one.joined)))
        for key, names in self.words.items():
            if key not in best and all(f" {word}" in names for word in words):
                best[key] = (SPREAD, False, len(names))
        return best

    def _containing(self, part: str) -> Iterator[Phrase]:
        """Phrases with these letters somewhere."""
        text, starts = self.text
        at = text.find(part)
        while at >= 0:
            number = bisect_right(starts, at) - 1
            yield self.phrases[number]
            if number + 1 == len(starts):
                return
            at = text.find(part, starts[number + 1])

    @cached_property
    def text(self) -> tuple[str, list[int]]:
        """All phrases one after another, and where each starts."""
        lengths = [len(one.joined) + 1 for one in self.phrases]
        return "\n".join(one.joined for one in self.phrases), [0, *accumulate(lengths)][:-1]

    def _mistyped(self, words: list[str]) -> dict[Key, Hit]:
        """Names one letter off: wrong, missing, too much, or two changed round."""
        best: dict[Key, Hit] = {}
        joined = "".join(words)
        if len(joined) < SHORTEST_WITH_A_MISTAKE:
            return best
        whole = self.text[0].split("\n")
        begun = [name[: len(joined)] for name in whole]
        for how, letters in ((MISTYPED, whole), (BEGINS_MISTYPED, begun)):
            for _, _, at in process.extract(
                joined, letters, scorer=OSA.distance, score_cutoff=1, limit=None
            ):
                one = self.phrases[at]
                _keep(best, one.key, (how, one.is_synonym, len(one.joined)))
        near = {word: self._near(word) for word in words}
        if not any(near.values()):
            return best
        for key, names in self.words.items():
            if key in best:
                continue
            wrong = [word for word in words if f" {word}" not in names]
            if len(wrong) == 1 and not near[wrong[0]].isdisjoint(names.split()):
                best[key] = (A_WORD_MISTYPED, False, len(names))
        return best

    def _near(self, word: str) -> set[str]:
        """Words of any name that are one mistake away."""
        if len(word) < SHORTEST_WITH_A_MISTAKE:
            return set()
        known = self.vocabulary
        return {
            name
            for name, _, _ in process.extract(
                word, known, scorer=OSA.distance, score_cutoff=1, limit=None
            )
        }

    @cached_property
    def vocabulary(self) -> list[str]:
        return sorted({word for names in self.words.values() for word in names.split()})


def _keep(best: dict[Key, Hit], key: Key, hit: Hit) -> None:
    """The better of two hits: how well, then a shown name before a synonym, then the shorter."""
    known = best.get(key)
    if known is None or (-hit[0], hit[1], hit[2]) < (-known[0], known[1], known[2]):
        best[key] = hit


def _how_well(one: Phrase, joined: str, words: list[str]) -> int:
    name = one.joined
    if joined in name:
        return _how_well_joined(one, joined)
    if len(words) == 1 or any(word not in name for word in words):
        return NO_HIT
    spread = all(any(name.startswith(word, at) for at in one.starts) for word in words)
    return WORD_BY_WORD if spread else NO_HIT


def _how_well_joined(one: Phrase, joined: str) -> int:
    """How well the letters are hit that stand in a name as they are typed. Letters that are words
    from the first to the last ("eye" in "chuck eye") come before those that begin one ("eyelet"), and the
    words a name begins with before others ("rib" in "rib roast" before "back ribs")."""
    name = one.joined
    if name == joined:
        return SAME
    found = [at for at in one.starts if name.startswith(joined, at)]
    if not found:
        return INSIDE if len(joined) >= SHORTEST_WITH_A_MISTAKE else NO_HIT
    ends = (*one.starts, len(name))
    whole = [at for at in found if at + len(joined) in ends]
    if whole:
        return THE_FIRST_WORD if whole[0] == 0 else A_WHOLE_WORD
    return BEGINS if found[0] == 0 else AT_A_WORD
