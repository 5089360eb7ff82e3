"""Further documentation sites for training, fetched and cleaned by the evaluation's own script.

    sites.py HARNESS NAME...
"""
import sys

sys.path.insert(0, sys.argv[1])
import corpora

DOC = "usr/share/doc/"
SITES = {
    "sqlite": ("sqlite3-doc", DOC + "sqlite3"),
    "django": ("python-django-doc", DOC + "python-django-doc/html"),
    "git": ("git-doc", DOC + "git-doc"),
    "postfix": ("postfix-doc", DOC + "postfix/html"),
    "exim": ("exim4-doc-html", DOC + "exim4-doc-html/spec_html"),
    "gimp": ("gimp-help-en", "usr/share/gimp/2.0/help/en"),
    "handbook": ("debian-handbook", DOC + "debian-handbook/html/en-US"),
    "handbook-fr": ("debian-handbook", DOC + "debian-handbook/html/fr-FR"),
    "grass": ("grass-doc", DOC + "grass-doc/html"),
    "cmake": ("cmake-doc", DOC + "cmake-data/html"),
    "octave": ("octave-doc", DOC + "octave/octave.html"),
    "libreoffice-de": ("libreoffice-help-de", "usr/share/libreoffice/help/de/text"),
    "apache-fr": ("apache2-doc", DOC + "apache2-doc/manual/fr"),
    "gnucash": ("gnucash-docs", DOC + "gnucash-docs/gnucash-guide-en"),
    "slony": ("slony1-2-doc", DOC + "slony1-2-doc/adminguide"),
    "sphinx": ("sphinx-doc", DOC + "sphinx-doc/html"),
    "zsh": ("zsh-doc", DOC + "zsh-common/html"),
    "python": ("python3.11-doc", DOC + "python3.11/html"),
    "policy": ("debian-policy", DOC + "debian-policy/policy.html"),
    "libreoffice-fr": ("libreoffice-help-fr", "usr/share/libreoffice/help/fr/text"),
    "gimp-de": ("gimp-help-de", "usr/share/gimp/2.0/help/de"),
    "gnucash-de": ("gnucash-docs", DOC + "gnucash-docs/gnucash-guide-de"),
    "lilypond-fr": ("lilypond-doc-html-fr", DOC + "lilypond/html/Documentation/notation"),
    "lilypond": ("lilypond-doc-html", DOC + "lilypond/html/Documentation/notation"),
}

for name, (package, root) in SITES.items():
    corpora.CORPORA[name] = {"package": package, "root": root}
for name in sys.argv[2:]:
    if not (corpora.WORK / "sites" / name / "truth.jsonl").exists():
        print(corpora.build(name), flush=True)
