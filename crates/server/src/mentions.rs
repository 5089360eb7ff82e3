//! `strelm mentions`: where a folder of HTML says something, linked or not, without a database.

use std::collections::BTreeSet;
use std::io::Write;
use std::ops::Range;
use std::path::PathBuf;

use clap::builder::TypedValueParser;
use serde::Serialize;
use strelm_core::document::{Document, QuotedSentence, TextSpan};
use strelm_core::mentions::{Carries, MentionPlace, Mentioned, Part, Wanted};
use strelm_core::rules::{Matching, Phrase};
use strelm_core::site::{Address, Destination, PageFacts};
use strelm_formats::table::{Cell, Table};

use crate::in_folder::{FolderSite, InFile, base, path_of};
use crate::words::{in_a_line, many};

/// `strelm mentions`.
#[derive(Debug, clap::Args)]
pub struct Mentions {
    /// The folder of HTML files
    folder: PathBuf,
    /// What is looked for
    #[arg(required = true)]
    phrases: Vec<String>,
    /// The page on which readers start, relative to the folder
    #[arg(long, default_value = "index.html")]
    entry: String,
    /// Only these words, and no other forms of them
    #[arg(long)]
    exact: bool,
    /// The phrases are regular expressions
    #[arg(long)]
    regex: bool,
    /// Only in these capitals and small letters
    #[arg(long)]
    case: bool,
    /// Only with these accents
    #[arg(long)]
    accents: bool,
    /// So many other words may stand between two of a phrase
    #[arg(long, default_value_t = 0, value_parser = clap::value_parser!(u8).range(0..=10))]
    gap: u8,
    /// Only in these parts of pages
    #[arg(long = "in", value_delimiter = ',', value_parser = part())]
    parts: Vec<Part>,
    /// Print a table for a spreadsheet
    #[arg(long, conflicts_with = "jsonl")]
    csv: bool,
    /// Print one JSON object a line, with places in the files as bytes
    #[arg(long)]
    jsonl: bool,
}

fn part() -> impl TypedValueParser<Value = Part> {
    let names = clap::builder::PossibleValuesParser::new(Part::ALL.map(Part::name));
    names.try_map(|name| Part::named(&name).ok_or("no part of a page"))
}

/// A mention, for programs.
#[derive(Serialize)]
struct Row {
    page: String,
    /// In bytes of the file: the words, or the picture that says them. Of a title nothing.
    start: Option<usize>,
    end: Option<usize>,
    words: String,
    part: &'static str,
    /// The page of the folder, or what is written.
    linked_to: Option<String>,
    /// Why the words could carry no link.
    refused: Option<String>,
    #[serde(skip)]
    sentence: QuotedSentence,
}

impl Mentions {
    /// # Errors
    /// When a phrase cannot be looked for, a part of the folder cannot be read, or the entry page is not there.
    pub fn run(&self) -> anyhow::Result<()> {
        let phrase = |text: &String| if self.regex { Phrase::expression(text) } else { Phrase::words(text) };
        let phrases = self.phrases.iter().map(phrase).collect::<Result<_, _>>()?;
        let matching = Matching {
            forms: !self.exact && !self.regex,
            keeps_case: self.case,
            keeps_accents: self.accents,
            gap: usize::from(self.gap),
            ..Matching::default()
        };
        let parts: BTreeSet<_> = match self.parts.is_empty() {
            true => Part::ALL.into(),
            false => self.parts.iter().copied().collect(),
        };
        let wanted = Wanted::new(phrases, matching, parts);
        let searcher = wanted.searcher();
        let read = FolderSite::read_from(&self.folder, &self.entry)?;
        let base = base()?;
        let look = |page: &PageFacts, document: &Document| -> Vec<Row> {
            let Some(file) = read.in_file(page.id) else { return Vec::new() };
            let mentions = searcher.on(document, page.language).into_iter();
            mentions.map(|mention| row(document, &page.address, &base, file, mention)).collect()
        };
        let mut rows: Vec<Row> = Vec::new();
        let mut out = std::io::BufWriter::new(std::io::stdout().lock());
        let (mut found, mut on_pages) = (0, 0);
        read.each_page(&self.folder, look, |some| {
            (found, on_pages) = (found + some.len(), on_pages + usize::from(!some.is_empty()));
            match (self.csv, self.jsonl) {
                (true, _) => rows.extend(some),
                (_, true) => some.iter().try_for_each(|row| writeln!(out, "{}", serde_json::to_string(row)?))?,
                _ => some.iter().try_for_each(|row| row.print(&mut out))?,
            }
            Ok(())
        })?;
        if self.csv {
            out.write_all(&table(rows).to_csv()?)?;
        }
        out.flush()?;
        writeln!(std::io::stderr(), "{} on {}", many(found, "mention"), many(on_pages, "page"))?;
        Ok(())
    }
}

fn row(document: &Document, page: &Address, base: &Address, file: &InFile, mention: Mentioned) -> Row {
    let within = |text: &str, words: Range<usize>| {
        QuotedSentence::of(text, TextSpan::new(0, text.len()), TextSpan::new(words.start, words.end))
    };
    let (bytes, sentence) = match mention.place {
        MentionPlace::Text(words) => (file.bytes_of(words), document.quote_around(words)),
        MentionPlace::Alt { picture, words } => {
            let picture = document.pictures().get(picture);
            let bytes =
                picture.map(|picture| (file.bytes.byte(picture.source.start), file.bytes.byte(picture.source.end)));
            (bytes, picture.and_then(|picture| Some(within(picture.alt.as_deref()?, words))))
        }
        MentionPlace::Title(words) => (None, document.head().title.as_deref().map(|title| within(title, words))),
    };
    let (linked_to, refused) = match mention.carries {
        Carries::Link(link) => (document.links().get(link).map(|link| leads(page, base, &link.href)), None),
        Carries::Nothing => (None, None),
        Carries::Refused(why) => (None, Some(why.to_string())),
        Carries::Never => (None, Some("a title carries no links".to_owned())),
    };
    let sentence = sentence.unwrap_or_default();
    Row {
        page: path_of(page),
        start: bytes.map(|bytes| bytes.0),
        end: bytes.map(|bytes| bytes.1),
        words: sentence.anchor.clone(),
        part: mention.part.name(),
        linked_to,
        refused,
        sentence,
    }
}

/// The page of the folder to which a link leads, or what is written.
fn leads(page: &Address, base: &Address, href: &str) -> String {
    match page.follow(href) {
        Destination::Page { address, .. } if address.same_origin(base) => path_of(&address),
        _ => href.to_owned(),
    }
}

impl Row {
    fn print(&self, out: &mut impl Write) -> std::io::Result<()> {
        let QuotedSentence { before, anchor, after } = &self.sentence;
        let leads = self.linked_to.as_ref().map(|to| format!(" → {}", in_a_line(to))).unwrap_or_default();
        let sentence = in_a_line(&format!("{before}[{anchor}]{after}"));
        writeln!(out, "{} ({}): {sentence}{leads}", in_a_line(&self.page), self.part)
    }
}

fn table(rows: Vec<Row>) -> Table {
    let text = |text: Option<String>| Cell::Text(text.unwrap_or_default());
    let number = |number: Option<usize>| number.map_or(Cell::Text(String::new()), |number| Cell::Number(number as f64));
    let cells = |row: Row| {
        let QuotedSentence { before, anchor, after } = row.sentence;
        vec![
            Cell::Text(row.page),
            number(row.start),
            number(row.end),
            Cell::Text(row.words),
            Cell::Text(row.part.to_owned()),
            text(row.linked_to),
            Cell::Text(format!("{before}{anchor}{after}")),
            text(row.refused),
        ]
    };
    let headings = ["page", "start", "end", "words", "part", "linked_to", "sentence", "refused"];
    Table { headings: headings.map(str::to_owned).to_vec(), rows: rows.into_iter().map(cells).collect() }
}
