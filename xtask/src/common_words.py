"""The common words of each language, written to FOLDER, from the frequencies of the library wordfreq 3.1.1.

    pip install wordfreq==3.1.1
    common_words.py FOLDER
"""
import sys
import unicodedata
import zlib
from collections import defaultdict
from pathlib import Path

import wordfreq

LANGUAGES = "ar da nl en fi fr de el hu it nb pt ro ru es sv ta tr".split()
LEAST = 40

# Names of products and companies, which are no words of a language: by the checksums of language and word, since they are
# not named here.
NAMES = set("""
    00262cfc 028576a0 028656ea 02910a19 02ee9f05 03a4fe19 03ee99cc 041e390b 0527e77e 05285d18 0535cd4b
    056ce8b5 068e57ba 06dae474 073bdb24 0848e852 085a48ad 0870327f 08df6213 098d2a7f 0c4615cd 0c46ca9c
    0d78fa42 0e1e19dd 0eee7537 0f3d2a2c 0fec8e74 104898f8 1062b886 10b4043d 110e16b6 112cf2c9 1147138b
    12b350c7 1317fefd 136a6466 13a35dba 14188f71 15114b15 1592627f 16ec4b3f 1780fc17 1919acf0 19b48dea
    1a8729b1 1c63136c 1c7392db 1cf0759b 1d571d67 1da66d17 1db73a7e 1e0b5f5f 1e26d748 1e4a119b 1e6a7a90
    1fe9381c 21d62c64 220c3790 22d3c961 22f74214 236c91e8 23ade517 23e3303e 25401eed 25b0d155 25c971c7
    25d3257f 25d6b451 268687f6 26c36876 27337467 27687628 27eed744 2810fff2 28a184aa 28ae76ed 28b4f5aa
    2a031725 2a66f571 2aad14c0 2aebbc76 2af42084 2c37de62 2c413309 2cee5b2b 2cff83fa 2d06567e 2e595214
    2e597d06 2ee66bb1 2eff0fa2 30904db5 30e30e48 32953bea 331ba999 334923d3 34010373 34dbadc2 365e8029
    37088d08 371050a7 378625a2 3829d773 3908ae32 391520bb 39adbaed 3a96ba45 3b15899b 3beda90a 3c661703
    3c980f57 3e17ca07 3e2847cc 3f609f55 3f714784 3f982ce2 3f9bcbfa 40352f48 406ae403 41624d55 452e7da3
    45809e74 460d35d0 462c8ae7 4799763f 47d48d13 4809997b 484e130d 4a57fb46 4b1891fa 4bb457dd 4c644b3c
    4d339b78 4e2a7432 4e331cde 509f1545 510e8128 521ca8d0 5516e616 55aa7a2c 561f82db 56464ee7 57301cde
    57b76502 57bd6254 57c1ca64 57c71846 58077aca 5b442308 5b675012 5bd10fa2 5bfe5401 5c9b4fdf 5cf8bbf5
    5cfec2df 5d4b5ebf 5da4b04c 5da79473 5e36b141 5e6fa37a 5e7b1ec7 5f02ce09 5f7bf1cc 5f8b291b 60552500
    60f1952c 615865b3 61829009 644a78a3 64c227ea 64cfaa05 64ee07b7 64ff50de 65503465 66772875 66dbcfa1
    66e24ff0 68843fe7 69f98d64 6cba5c43 6cda08df 6d28a16d 6e1aa920 6e3e55a4 6e7dae8b 6f1a9ecc 70159d1d
    704ee888 7147f905 717d9c92 72b35707 731e8946 742e2657 74b54370 74e21402 753ff36a 7544d30e 7665e20a
    76a537fd 7746ae53 791576dd 7964ad79 7aefe212 7b794144 7bb7e5eb 7cc58674 7e4afb26 7f6f9ab5 80a97a91
    80ad3011 81188038 815c3c43 824dee90 82ca0fa5 8310c307 845b6442 84f5690a 8534b006 85a9581c 862655d7
    8638529e 8729af28 8772ad67 89087c4e 89655963 8b659653 8bb9a638 8be32e8f 8bebe7b7 8cc5d318 8e39da43
    9104022e 91204dc0 9213f941 92d2785d 92febfae 933bd26c 9356318c 935cd16f 93cb0abb 9413a1d4 9591de10
    959daaa1 96496c97 979ec88c 97c7fca2 97fe6af9 988e88aa 98b5def7 98eae088 99ec63ed 9a561892 9a9760e1
    9b96411d 9bd4ad2a 9c47c1aa 9dc4cbe4 9e0957f3 9e5218f7 9f324be7 9f639120 9f7d79cc 9ff23f3d a026bf95
    a0e58e70 a0f50128 a17111b8 a196d376 a2459745 a25a67dc a3de1844 a42a70bc a4cc16f9 a5497613 a5b3a1e4
    a5f512c6 a60db517 a7e87fd1 a80a4b54 a81c1943 a896d86f a897fe92 aa5b332d aa8f3024 ad29d83a ad4ffd0d
    adfd2d18 ae0beb61 afe6156d b00941f8 b00d6059 b0dcb990 b36b67e8 b39320e7 b50bf47d b643f671 b7efdc72
    b8995828 b8b7c659 b9102c8b b933ea71 b99f5d28 b9f598ba badfce87 bb92a70e bc16b035 bcda78e9 bdc3ed20
    bde7b417 be2c0faf be507df4 be7beb93 be9cccdb beb8d2c1 bec767c7 bf281cad bfb58aa6 c06f1617 c1f7ac73
    c253ce6c c352fc6f c3a40659 c41a6b0d c4be89de c5012d8c c7181754 c78f0d67 c7d21357 c7e03a77 c808f364
    c85353b6 c9412b58 ca53d18b ca72d46c cab87284 cafcb9a9 cba2e1cf cd84143b cd89eb4d cdded939 ce2a0f76
    ce952f5b cfc49807 d0cde0c0 d3a272f7 d3f34270 d4659a7a d487d968 d4ca1257 d4e81600 d52e95ad d72bfe6b
    d8202c6c d8216a25 d9598b0c d9727dd7 d99f755c d9cccd24 da01b2ba da0b2477 da36c50c dbd40392 dbdd2027
    dcf4279d dd282cb1 de9f6621 dea363da e09cb538 e0a4094d e13bbab9 e28b3bf7 e445850c e45dec58 e47a09f4
    e483e89b e4caeda6 e4fc7d87 e56bf1cd e56fa4a3 e5cf9594 e67877d1 e6a053d7 e6d305ed e853ecf3 e92fc8ae
    e9eeed41 e9f56084 e9fe6cf6 ea03c092 eac6a456 eaecde84 ebcc5357 ebf7050a ec27b15d ec5e7564 ed32393e
    ee8736e4 ee8f9602 eea7070d eebee449 f005c6ee f06b1ba4 f0de6bd2 f0f1972f f2029214 f3684431 f3fd9324
    f57a8963 f687ee09 f6d699e5 f70dfe91 f755f109 f7636128 f76c2b56 f7f6bc02 f831bf98 fa71f1ee fa7a3089
    fab0d401 fb058430 fb583888 fcb962f5 fcda96df fd59384f fd8c1342 fe61c588 fed27724
""".split())

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
        is_name = f"{zlib.crc32(f'{language} {word}'.encode()):08x}" in NAMES
        if tenth >= LEAST and len(word) > 1 and not is_name and all(c.isalpha() or c == "'" for c in word):
            tenths[word] = max(tenth, tenths.get(word, 0))
    lines = defaultdict(list)
    for word, tenth in tenths.items():
        lines[tenth].append(word)
    text = "".join(f"{tenth} {' '.join(sorted(lines[tenth]))}\n" for tenth in sorted(lines, reverse=True))
    (folder / f"{language}.txt").write_text(HEAD + text, encoding="utf-8")
