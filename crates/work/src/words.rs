//! Words for messages.

/// A sentence's first letter as a capital.
fn capitalised(text: &str) -> String {
    let mut characters = text.chars();
    characters.next().map(|first| first.to_uppercase().chain(characters).collect()).unwrap_or_default()
}

/// A message as a sentence of its own: with a capital at its beginning and a mark at its end.
pub fn sentence(text: &str) -> String {
    let end = if text.ends_with(['.', '?', '!']) { "" } else { "." };
    format!("{}{end}", capitalised(text))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_sentence_has_one_end() {
        assert_eq!(sentence("it is not there: is the disk mounted?"), "It is not there: is the disk mounted?");
        assert_eq!((sentence("élan"), sentence("Done."), sentence("")), ("Élan.".into(), "Done.".into(), ".".into()));
    }
}
