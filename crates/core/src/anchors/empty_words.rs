//! Words that say nothing of where a link leads: “here”, “read more”.

use std::sync::LazyLock;

use rustc_hash::{FxHashMap, FxHashSet};

use crate::language::{Language, fold, words};

/// Of each language, as they are written in lower case.
const EMPTY: [(Language, &[&str]); 18] = [
    (Language::Arabic, &["هنا", "اضغط هنا", "انقر هنا", "اقرأ المزيد", "المزيد", "الرابط", "رابط", "من هنا"]),
    (Language::Danish, &["her", "klik her", "læs mere", "mere", "se mere", "link", "dette link", "side", "denne side"]),
    (
        Language::Dutch,
        &[
            "hier",
            "klik hier",
            "lees meer",
            "lees verder",
            "meer",
            "meer info",
            "meer informatie",
            "link",
            "deze link",
            "deze pagina",
        ],
    ),
    (
        Language::English,
        &[
            "here",
            "click",
            "click here",
            "press here",
            "tap here",
            "see here",
            "right here",
            "read more",
            "more",
            "learn more",
            "find out more",
            "see more",
            "show more",
            "view more",
            "more info",
            "more information",
            "details",
            "more details",
            "continue",
            "continue reading",
            "read on",
            "read",
            "read this",
            "go",
            "go here",
            "link",
            "this link",
            "the link",
            "this",
            "that",
            "this page",
            "this post",
            "this article",
            "this site",
            "page",
            "article",
            "post",
            "website",
            "site",
            "source",
            "start",
            "download",
            "next",
            "previous",
            "back",
            "view",
            "see",
            "open",
            "visit",
            "check it out",
            "full story",
        ],
    ),
    (Language::Finnish, &["tästä", "täällä", "täältä", "klikkaa tästä", "lue lisää", "lisää", "linkki", "tämä sivu"]),
    (
        Language::French,
        &[
            "ici",
            "cliquez ici",
            "cliquer ici",
            "lire la suite",
            "la suite",
            "en savoir plus",
            "plus",
            "voir plus",
            "lien",
            "ce lien",
            "cette page",
            "cet article",
        ],
    ),
    (
        Language::German,
        &[
            "hier",
            "klick",
            "hier klicken",
            "klicken sie hier",
            "klick hier",
            "mehr",
            "mehr lesen",
            "weiterlesen",
            "mehr erfahren",
            "mehr dazu",
            "mehr infos",
            "weiter",
            "link",
            "dieser link",
            "diese seite",
            "dieser artikel",
            "details",
        ],
    ),
    (Language::Greek, &["εδώ", "κάντε κλικ εδώ", "πατήστε εδώ", "διαβάστε περισσότερα", "περισσότερα", "σύνδεσμος"]),
    (
        Language::Hungarian,
        &["itt", "ide", "kattintson ide", "kattints ide", "tovább", "bővebben", "olvass tovább", "link"],
    ),
    (
        Language::Italian,
        &[
            "qui",
            "clicca qui",
            "leggi tutto",
            "leggi di più",
            "continua",
            "scopri di più",
            "altro",
            "link",
            "questo link",
            "questa pagina",
        ],
    ),
    (Language::Norwegian, &["her", "klikk her", "les mer", "mer", "se mer", "lenke", "denne lenken", "denne siden"]),
    (
        Language::Portuguese,
        &["aqui", "clique aqui", "leia mais", "saiba mais", "mais", "ver mais", "link", "este link", "esta página"],
    ),
    (
        Language::Romanian,
        &["aici", "click aici", "apasă aici", "citește mai mult", "mai mult", "mai multe", "detalii", "link"],
    ),
    (
        Language::Russian,
        &[
            "здесь",
            "тут",
            "нажмите здесь",
            "кликните здесь",
            "подробнее",
            "читать далее",
            "далее",
            "читать",
            "ссылка",
            "по ссылке",
            "эта страница",
        ],
    ),
    (
        Language::Spanish,
        &[
            "aquí",
            "haga clic aquí",
            "haz clic aquí",
            "pulse aquí",
            "leer más",
            "más",
            "ver más",
            "más información",
            "seguir leyendo",
            "enlace",
            "este enlace",
            "esta página",
        ],
    ),
    (Language::Swedish, &["här", "klicka här", "läs mer", "mer", "se mer", "länk", "denna länk", "den här sidan"]),
    (Language::Tamil, &["இங்கே", "இங்கே கிளிக் செய்யவும்", "மேலும்", "மேலும் படிக்க", "இணைப்பு"]),
    (
        Language::Turkish,
        &["burada", "buradan", "tıklayın", "buraya tıklayın", "devamı", "devamını oku", "daha fazla", "bağlantı"],
    ),
];

/// Whether a text says nothing in a language, or in English, which is seen on pages of any. O(length).
pub fn says_nothing(text: &str, language: Language) -> bool {
    let folded = folded_words(text);
    [language, Language::English].iter().any(|language| SETS.get(language).is_some_and(|set| set.contains(&folded)))
}

static SETS: LazyLock<FxHashMap<Language, FxHashSet<String>>> = LazyLock::new(|| {
    EMPTY.iter().map(|(language, all)| (*language, all.iter().map(|text| folded_words(text)).collect())).collect()
});

/// The words without case, accents and what stands between them.
pub(super) fn folded_words(text: &str) -> String {
    let folded: Vec<_> = words(text).map(|word| fold(word.text)).collect();
    folded.join(" ")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_that_say_nothing_are_known_in_the_language_of_their_page() {
        for (text, language) in [
            ("Read more »", Language::English),
            ("HERE.", Language::English),
            ("En savoir plus…", Language::French),
            ("Подробнее", Language::Russian),
            ("Aquí", Language::Spanish),
            ("click here", Language::Dutch),
            ("Devamını oku", Language::Turkish),
        ] {
            assert!(says_nothing(text, language), "{text}");
        }
        for (text, language) in [
            ("her", Language::English),
            ("more about dark adaptation", Language::English),
            ("ici", Language::German),
            ("", Language::English),
        ] {
            assert!(!says_nothing(text, language), "{text}");
        }
    }

    #[test]
    fn every_language_has_some() {
        for language in Language::ALL {
            assert!(SETS.contains_key(&language), "{language:?}");
        }
        assert!(SETS.values().flatten().all(|text| !text.is_empty()));
    }
}
