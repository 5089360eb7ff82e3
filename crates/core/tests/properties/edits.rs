//! Edits as splices: applied, composed and undone, judged by a plain string replacement.

use proptest::prelude::*;
use strelm_core::document::{
    BlockId, ContentHash, Document, Edit, EditError, LinkTarget, Refusal, SourceSpan, Splice, TextSpan, Wording,
};

fn splice(start: usize, end: usize, with: &str) -> Splice {
    Splice { at: SourceSpan::new(start, end), with: with.to_owned() }
}

/// Text over several byte lengths, and disjoint cuts in it: start, end, replacement.
fn text_and_cuts() -> impl Strategy<Value = (String, Vec<(usize, usize, String)>)> {
    ("[a-zäß€😀 <>&]{0,60}", prop::collection::vec((0usize..61, 0usize..4, "[a-zé]{0,5}"), 0..8)).prop_map(
        |(text, wishes)| {
            let bounds: Vec<_> = text.char_indices().map(|(at, _)| at).chain([text.len()]).collect();
            let mut cuts: Vec<(usize, usize, String)> = Vec::new();
            for (start, len, with) in wishes {
                let first = start.min(bounds.len() - 1);
                let last = (first + len).min(bounds.len() - 1);
                let (start, end) = (bounds[first], bounds[last]);
                if cuts.iter().all(|(s, e, _)| end < *s || start > *e) {
                    cuts.push((start, end, with));
                }
            }
            (text, cuts)
        },
    )
}

proptest! {
    #[test]
    fn an_edit_is_what_replacing_from_the_end_gives((text, cuts) in text_and_cuts()) {
        let splices = cuts.iter().map(|(start, end, with)| splice(*start, *end, with)).collect();
        let edit = Edit::new(ContentHash::of(&text), splices).unwrap();
        let mut expected = text.clone();
        let mut ordered = cuts;
        ordered.sort();
        for (start, end, with) in ordered.iter().rev() {
            expected.replace_range(start..end, with);
        }
        let after = edit.apply(&text).unwrap();
        prop_assert_eq!(&after, &expected);
        let inverse = edit.inverse(&text).unwrap();
        prop_assert_eq!(inverse.apply(&after).unwrap(), text.clone());
        prop_assert_eq!(inverse.inverse(&after).unwrap().apply(&text).unwrap(), after);
    }

    #[test]
    fn composing_one_by_one_or_all_at_once_is_the_same((text, cuts) in text_and_cuts()) {
        let base = ContentHash::of(&text);
        let edits: Vec<_> =
            cuts.iter().map(|(s, e, with)| Edit::new(base, vec![splice(*s, *e, with)]).unwrap()).collect();
        let whole = Edit::compose(base, edits.clone()).unwrap();
        let mut reversed = edits;
        reversed.reverse();
        prop_assert_eq!(whole.apply(&text).unwrap(), Edit::compose(base, reversed).unwrap().apply(&text).unwrap());
    }

    #[test]
    fn places_outside_of_the_text_are_refused(start in 0usize..30, len in 0usize..30) {
        let text = "häß";
        let edit = Edit::new(ContentHash::of(text), vec![splice(start, start + len, "x")]).unwrap();
        let fits = text.get(start..start + len).is_some();
        prop_assert_eq!(edit.apply(text).is_ok(), fits);
    }
}

#[test]
fn an_edit_is_for_one_version_only() {
    let edit = Edit::new(ContentHash::of("one"), vec![splice(0, 1, "O")]).unwrap();
    assert_eq!(edit.apply("one").unwrap(), "One");
    assert_eq!(edit.apply("One").unwrap_err(), EditError::OtherVersion);
    assert_eq!(edit.inverse("two").unwrap_err(), EditError::OtherVersion);
    let other = Edit::new(ContentHash::of("two"), Vec::new()).unwrap();
    assert_eq!(Edit::compose(ContentHash::of("one"), [edit, other]).unwrap_err(), EditError::OtherVersion);
}

#[test]
fn two_edits_of_the_same_bytes_do_not_go_together() {
    let base = ContentHash::of("abcdef");
    assert_eq!(Edit::new(base, vec![splice(0, 3, "x"), splice(2, 4, "y")]).unwrap_err(), EditError::Overlap);
    assert_eq!(Edit::new(base, vec![splice(0, 4, "x"), splice(2, 2, "y")]).unwrap_err(), EditError::Overlap);
    let beside = Edit::new(base, vec![splice(3, 4, "y"), splice(0, 3, "x")]).unwrap();
    assert_eq!(beside.apply("abcdef").unwrap(), "xyef");
}

fn refusal(html: &str, words: &str) -> Refusal {
    let document = Document::from_html(html);
    let start = document.text().as_str().find(words).unwrap();
    let target = LinkTarget::to("/t");
    document.put_link(TextSpan::new(start, start + words.len()), &target).unwrap_err()
}

#[test]
fn words_that_cannot_carry_a_link_say_why() {
    assert_eq!(refusal("<p><a href=x>the moon</a></p>", "moon"), Refusal::AlreadyLinked);
    assert_eq!(refusal("<p>the <a href=x>full</a> moon</p>", "the full moon"), Refusal::AlreadyLinked);
    assert_eq!(refusal("<p>the full<a id=x></a> moon</p>", "full moon"), Refusal::AlreadyLinked);
    assert_eq!(refusal("<p><code>tar</code>, <a name=x></a>moon</p>", "tar, moon"), Refusal::AlreadyLinked);
    assert_eq!(refusal("<h2>the moon</h2>", "moon"), Refusal::Heading);
    assert_eq!(refusal("<p><code>the moon</code></p>", "moon"), Refusal::CodeOrControl);
    assert_eq!(refusal("<pre>the moon</pre>", "moon"), Refusal::CodeOrControl);
    assert_eq!(refusal("<p><button>the moon</button></p>", "moon"), Refusal::CodeOrControl);
    assert_eq!(refusal("<p>the</p><p>moon</p>", "the\nmoon"), Refusal::AcrossBlocks);
    assert_eq!(refusal("<p>the <em>full moon</em></p>", "the full"), Refusal::CrossesMarkup);
    assert_eq!(refusal("<p><b>the <i>full</b> moon</i></p>", "full moon"), Refusal::CrossesMarkup);
    assert_eq!(refusal("<p>the moon</p>", "moon\n"), Refusal::AcrossBlocks);
}

#[test]
fn code_is_linked_as_a_whole_however_it_is_wrapped() {
    let linked = |html: &str| {
        let document = Document::from_html(html);
        let at = document.text().as_str().find("os.path").unwrap();
        let target = LinkTarget::to("/p");
        let edit = document.put_link(TextSpan::new(at, at + 7), &target);
        edit.map(|edit| edit.apply(html).unwrap())
    };
    for (before, code, after) in [
        ("<p>See ", "<code>os.path</code>", ".</p>"),
        ("<p>See ", "<code class=x><span class=pre>os.path</span></code>", ".</p>"),
        ("<p>See <em>", "<tt><b><code><span>os.path</span></code></b></tt>", "</em>.</p>"),
        ("<p>See ", "<code><span>os.</span><span>path</span></code>", ".</p>"),
    ] {
        assert_eq!(linked(&format!("{before}{code}{after}")), Ok(format!("{before}<a href=\"/p\">{code}</a>{after}")));
    }
    for inside in ["<p><code>import <span>os.path</span></code>", "<pre><span>os.path</span></pre>"] {
        assert_eq!(linked(inside), Err(Refusal::CodeOrControl), "{inside}");
    }
    let open = "<p><code><span>os.path</span>";
    assert_eq!(linked(open), Err(Refusal::CodeOrControl), "code that no tag ends may go on");
}

#[test]
fn an_address_is_written_so_that_it_is_read_the_same() {
    let source = "<p>moon</p>";
    let document = Document::from_html(source);
    for href in ["/a?b=1&c=2", "/\"quoted\"", "/<tag>", "/&amp;", "/plain"] {
        let target = LinkTarget::to(href);
        let after = document.put_link(TextSpan::new(0, 4), &target).unwrap().apply(source).unwrap();
        assert_eq!(Document::from_html(after).links()[0].href, href);
    }
}

#[test]
fn an_edit_is_not_moved_to_the_other_of_two_places_that_were_alike() {
    let passage =
        "<p>Before you look, let the mirror cool down; the tube of a large telescope takes an hour and more.</p>\n";
    let other = "<p>Whoever sees the moon in daylight sees it pale.</p>".repeat(9);
    let old = format!("{other}<h1>One</h1>{passage}<h2>Two</h2>{passage}");
    let document = Document::from_html(old.as_str());
    let start = document.text().as_str().find("mirror cool").unwrap();
    let edit = document.put_link(TextSpan::new(start, start + 6), &LinkTarget::to("/mirrors")).unwrap();
    let same = format!("<p>New.</p>{old}");
    let moved = edit.rebase(&old, &same).unwrap().apply(&same).unwrap();
    assert_eq!(moved, format!("<p>New.</p>{}", edit.apply(&old).unwrap()));
    let gone = old.replacen(passage, "", 1);
    assert!(edit.rebase(&old, &gone).is_err(), "what is left is the other passage");
    let changed = old.replacen("an hour", "two hours", 1);
    let moved = edit.rebase(&old, &changed).unwrap().apply(&changed).unwrap();
    assert_eq!(moved, edit.apply(&old).unwrap().replacen("an hour", "two hours", 1));
}

#[test]
fn a_paragraph_after_a_heading_of_markdown_does_not_join_the_line_below() {
    let wording = [Wording::Text("Keep it dry.".to_owned())];
    for (source, wanted) in [
        ("## Mirrors\n![A mirror](m.png)\n", "## Mirrors\n\nKeep it dry.\n\n![A mirror](m.png)\n"),
        ("## Mirrors\n\nThey age.\n", "## Mirrors\n\nKeep it dry.\n\nThey age.\n"),
        ("## Mirrors", "## Mirrors\n\nKeep it dry."),
    ] {
        let edit = Document::from_markdown(source).insert_block(BlockId(0), &wording).unwrap();
        assert_eq!(edit.apply(source).unwrap(), wanted);
    }
}
