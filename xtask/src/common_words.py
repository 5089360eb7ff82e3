"""The common words of each language, written to FOLDER, from the frequencies of the library wordfreq 3.1.1.

    pip install wordfreq==3.1.1
    common_words.py FOLDER
"""
import sys
import unicodedata
from collections import defaultdict
from pathlib import Path

import wordfreq

LANGUAGES = "ar da nl en fi fr de el hu it nb pt ro ru es sv ta tr".split()
LEAST = 40

HEAD = """\
# Common words of one language by tenths of the Zipf scale (40: ten in a million words; 50: a hundred), folded. From the
# frequencies of wordfreq 3.1.1 (Robyn Speer, https://doi.org/10.5281/zenodo.7199437), CC BY-SA 4.0, as is this file.
"""


def folded(word):
    kept = (c for c in unicodedata.normalize("NFKD", word) if not unicodedata.category(c).startswith("M"))
    return "".join(c.lower() for c in kept).replace("\u2019", "'").replace("\u02bc", "'")


folder = Path(sys.argv[1])
for language in LANGUAGES:
    tenths = {}
    for word, frequency in wordfreq.get_frequency_dict(language, wordlist="best").items():
        tenth = round(10 * wordfreq.freq_to_zipf(frequency))
        word = folded(word)
        if tenth >= LEAST and len(word) > 1 and all(c.isalpha() or c == "'" for c in word):
            tenths[word] = max(tenth, tenths.get(word, 0))
    lines = defaultdict(list)
    for word, tenth in tenths.items():
        lines[tenth].append(word)
    text = "".join(f"{tenth} {' '.join(sorted(lines[tenth]))}\n" for tenth in sorted(lines, reverse=True))
    (folder / f"{language}.txt").write_text(HEAD + text, encoding="utf-8")
