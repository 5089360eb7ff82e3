//! A table of rules: a row is a rule, a column one of its options, and columns are known by their names.

use std::ops::RangeInclusive;
use std::str::FromStr;

use strelm_core::document::LinkSays;
use strelm_core::rules::{Matching, PathPattern, Phrase, PhraseError, Rule, RuleId};
use strelm_core::site::Target;
use strelm_formats::list::{List, phrases as list_of};
use thiserror::Error;

/// The columns that a table may have. The first name of each is the one that is told.
const COLUMNS: [(Column, &[&str]); 16] = [
    (Column::Phrase, &["phrase", "phrases", "words", "keyword", "keywords", "anchor text"]),
    (Column::Target, &["target", "address", "url", "link", "href", "page"]),
    (Column::Expression, &["expression", "regular expression", "regex", "pattern"]),
    (Column::Forms, &["forms", "word forms"]),
    (Column::Case, &["case", "keep case"]),
    (Column::Accents, &["accents", "keep accents"]),
    (Column::Gap, &["gap"]),
    (Column::NotBeside, &["not beside"]),
    (Column::PerPage, &["per page"]),
    (Column::Priority, &["priority"]),
    (Column::Paths, &["paths", "only in", "where"]),
    (Column::NotPaths, &["not paths", "not in"]),
    (Column::Headings, &["headings"]),
    (Column::Rel, &["rel"]),
    (Column::NewTab, &["new tab"]),
    (Column::Title, &["title"]),
];

#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Column {
    Phrase,
    Target,
    Expression,
    Forms,
    Case,
    Accents,
    Gap,
    NotBeside,
    PerPage,
    Priority,
    Paths,
    NotPaths,
    Headings,
    Rel,
    NewTab,
    Title,
}

/// Why a table of rules cannot be read.
#[derive(Debug, Error)]
pub enum NoTable {
    #[error("The table has no column “{0}”: let the first row name the columns, at least “phrase” and “target”.")]
    NoColumn(&'static str),
}

/// Why a row is no rule.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum NoRule {
    #[error("there is no phrase")]
    NoPhrase,
    #[error("there is no target")]
    NoTarget,
    #[error("{0}")]
    Phrase(#[from] PhraseError),
    #[error("“{0}” is no page here, and no address of another site")]
    Unknown(String),
    #[error("“{value}” under “{column}” should be {wanted}")]
    Value { column: &'static str, value: String, wanted: &'static str },
    #[error("row {first} leads the same phrase there")]
    Double { first: usize },
}

/// What a table says.
#[derive(Debug, Default)]
pub struct RuleTable {
    /// With the numbers of their rows, by which they are known.
    pub rules: Vec<Rule>,
    /// Rows that are no rules, with why.
    pub faults: Vec<(usize, NoRule)>,
    /// Columns whose names say nothing.
    pub unknown_columns: Vec<String>,
}

impl RuleTable {
    /// Reads each row, whose columns are what `headings` say; `target` knows what is named. Rows count from 1, with the row of names, as a spreadsheet counts them.
    /// O(cells).
    ///
    /// # Errors
    /// [`NoTable`] when the columns say neither what is linked nor where to.
    pub fn read(list: &List, headings: &[String], target: impl Fn(&str) -> Option<Target>) -> Result<Self, NoTable> {
        let columns: Vec<Option<Column>> = headings.iter().map(|name| Column::named(name)).collect();
        let has = |column: Column| columns.contains(&Some(column));
        if !has(Column::Phrase) && !has(Column::Expression) {
            return Err(NoTable::NoColumn("phrase"));
        }
        if !has(Column::Target) {
            return Err(NoTable::NoColumn("target"));
        }
        let unknown = columns.iter().zip(headings).filter(|(column, name)| column.is_none() && !name.trim().is_empty());
        let mut table = Self { unknown_columns: unknown.map(|(_, name)| name.clone()).collect(), ..Self::default() };
        for row in 0..list.len() {
            let cell = |column: Column| {
                let at = columns.iter().position(|known| *known == Some(column));
                at.map_or("", |at| list.cell(row, at).trim())
            };
            let number = row + 2;
            match rule(number, &cell, &target).and_then(|rule| table.is_new(rule)) {
                Ok(rule) => table.rules.push(rule),
                Err(why) => table.faults.push((number, why)),
            }
        }
        Ok(table)
    }

    /// What a column with this name is, by the first of the names that it may have.
    pub fn column_named(name: &str) -> Option<&'static str> {
        Column::named(name).map(name_of)
    }

    fn is_new(&self, rule: Rule) -> Result<Rule, NoRule> {
        let is_same = |other: &&Rule| {
            other.target == rule.target && other.matching == rule.matching && other.phrases == rule.phrases
        };
        match self.rules.iter().find(is_same) {
            Some(first) => Err(NoRule::Double { first: first.id.0 as usize }),
            None => Ok(rule),
        }
    }
}

fn rule<'c>(
    row: usize,
    cell: &impl Fn(Column) -> &'c str,
    target: &impl Fn(&str) -> Option<Target>,
) -> Result<Rule, NoRule> {
    let words = list_of(cell(Column::Phrase)).into_iter().map(|phrase| Phrase::words(&phrase));
    // An expression may hold whatever stands between phrases, but no end of a line.
    let expressions = cell(Column::Expression).lines().map(str::trim).filter(|text| !text.is_empty());
    let phrases: Vec<Phrase> = words.chain(expressions.map(Phrase::expression)).collect::<Result<_, _>>()?;
    if phrases.is_empty() {
        return Err(NoRule::NoPhrase);
    }
    let named = Some(cell(Column::Target)).filter(|text| !text.is_empty()).ok_or(NoRule::NoTarget)?;
    let target = target(named).ok_or_else(|| NoRule::Unknown(named.to_owned()))?;
    let id = RuleId(u32::try_from(row).unwrap_or(u32::MAX));
    let mut rule = Rule::new(id, phrases, target);
    let many = |column| list_of(cell(column));
    rule.matching = Matching {
        forms: yes(cell, Column::Forms, rule.matching.forms)?,
        keeps_case: yes(cell, Column::Case, false)?,
        keeps_accents: yes(cell, Column::Accents, false)?,
        gap: number(cell, Column::Gap, 0, 0..=10)?,
        not_beside: many(Column::NotBeside),
    };
    rule.pace.per_page = number(cell, Column::PerPage, rule.pace.per_page, 1..=1000)?;
    rule.pace.per_phrase = rule.pace.per_phrase.max(rule.pace.per_page);
    rule.priority = number(cell, Column::Priority, 0, -1000..=1000)?;
    rule.scope.paths = many(Column::Paths).into_iter().map(PathPattern).collect();
    rule.scope.not_paths = many(Column::NotPaths).into_iter().map(PathPattern).collect();
    rule.scope.blocks.headings = yes(cell, Column::Headings, false)?;
    for token in cell(Column::Rel).split([' ', ',', ';']).filter(|token| !token.is_empty()) {
        rule.says.push(match token.to_ascii_lowercase().as_str() {
            "nofollow" => LinkSays::Follow(false),
            "sponsored" => LinkSays::Sponsored(true),
            "ugc" => LinkSays::UserContent(true),
            other => LinkSays::Rel(other.to_owned(), true),
        });
    }
    if yes(cell, Column::NewTab, false)? {
        rule.says.push(LinkSays::NewTab(true));
    }
    let title = Some(cell(Column::Title)).filter(|title| !title.is_empty());
    rule.says.extend(title.map(|title| LinkSays::Attribute("title".to_owned(), Some(title.to_owned()))));
    Ok(rule)
}

impl Column {
    fn named(name: &str) -> Option<Self> {
        let folded = name.trim().to_lowercase().replace('_', " ");
        COLUMNS.iter().find(|(_, names)| names.contains(&folded.as_str())).map(|(column, _)| *column)
    }
}

/// The columns that a table may have, each by its first name.
pub fn column_names() -> impl Iterator<Item = &'static str> {
    COLUMNS.iter().map(|(_, names)| names[0])
}

/// A rule as a row with all columns, as they are named; `target` is what its target is called. What has no column is left out.
pub fn cells_of(rule: &Rule, target: &str) -> Vec<String> {
    let is_expression = |phrase: &&Phrase| matches!(phrase, Phrase::Expression(_));
    let several = |all: &[String]| all.join("; ");
    let yes = |is: bool| if is { "yes" } else { "no" }.to_owned();
    let paths = |all: &[PathPattern]| several(&all.iter().map(|path| path.0.clone()).collect::<Vec<_>>());
    let cell = |column: Column| match column {
        Column::Phrase => {
            let words = rule.phrases.iter().filter(|phrase| !is_expression(phrase));
            several(&words.map(|phrase| phrase.as_str().to_owned()).collect::<Vec<_>>())
        }
        Column::Expression => {
            let expressions = rule.phrases.iter().filter(is_expression);
            expressions.map(Phrase::as_str).collect::<Vec<_>>().join("\n")
        }
        Column::Target => target.to_owned(),
        Column::Forms => yes(rule.matching.forms),
        Column::Case => yes(rule.matching.keeps_case),
        Column::Accents => yes(rule.matching.keeps_accents),
        Column::Gap => rule.matching.gap.to_string(),
        Column::NotBeside => several(&rule.matching.not_beside),
        Column::PerPage => rule.pace.per_page.to_string(),
        Column::Priority => rule.priority.to_string(),
        Column::Paths => paths(&rule.scope.paths),
        Column::NotPaths => paths(&rule.scope.not_paths),
        Column::Headings => yes(rule.scope.blocks.headings),
        Column::Rel => {
            let tokens = rule.says.iter().filter_map(|says| match says {
                LinkSays::Follow(false) => Some("nofollow"),
                LinkSays::Sponsored(true) => Some("sponsored"),
                LinkSays::UserContent(true) => Some("ugc"),
                LinkSays::Rel(token, true) => Some(token.as_str()),
                _ => None,
            });
            tokens.collect::<Vec<_>>().join(" ")
        }
        Column::NewTab => yes(rule.says.contains(&LinkSays::NewTab(true))),
        Column::Title => {
            let title = rule.says.iter().find_map(|says| match says {
                LinkSays::Attribute(name, Some(title)) if name == "title" => Some(title.clone()),
                _ => None,
            });
            title.unwrap_or_default()
        }
    };
    COLUMNS.iter().map(|(column, _)| cell(*column)).collect()
}

fn name_of(column: Column) -> &'static str {
    COLUMNS.iter().find(|(known, _)| *known == column).map_or("", |(_, names)| names[0])
}

fn yes<'c>(cell: &impl Fn(Column) -> &'c str, column: Column, otherwise: bool) -> Result<bool, NoRule> {
    match cell(column).to_lowercase().as_str() {
        "" => Ok(otherwise),
        "yes" | "y" | "true" | "1" | "x" => Ok(true),
        "no" | "n" | "false" | "0" => Ok(false),
        other => Err(NoRule::Value { column: name_of(column), value: other.to_owned(), wanted: "yes or no" }),
    }
}

fn number<'c, N: FromStr + PartialOrd>(
    cell: &impl Fn(Column) -> &'c str,
    column: Column,
    otherwise: N,
    within: RangeInclusive<N>,
) -> Result<N, NoRule> {
    let text = cell(column);
    if text.is_empty() {
        return Ok(otherwise);
    }
    text.parse().ok().filter(|number| within.contains(number)).ok_or_else(|| NoRule::Value {
        column: name_of(column),
        value: text.to_owned(),
        wanted: "a small whole number",
    })
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use strelm_formats::table::{Cell, Table};

    use super::*;

    fn read(text: &str) -> Result<RuleTable, NoTable> {
        let target = |name: &str| name.starts_with("https://").then(|| Target::outside(name).unwrap());
        let list = List::read(text.as_bytes()).unwrap();
        RuleTable::read(&list, list.headings.as_deref().unwrap_or_default(), target)
    }

    #[test]
    fn what_is_written_is_read_as_the_same_rule() {
        let text = "phrase,target,expression,forms,gap,not beside,per page,priority,paths,headings,rel,new tab,title\n\
                    red torch; dim torch,https://a.example/,,no,2,blue; green,3,7,/a/*; /b/*,yes,nofollow me,yes,“All”\n\
                    ,https://a.example/,M[0-9]+,,,,,,,,,,\n";
        let rules = read(text).unwrap().rules;
        let cells = |rule: &Rule| cells_of(rule, "https://a.example/").into_iter().map(Cell::Text).collect();
        let written =
            Table { headings: column_names().map(str::to_owned).collect(), rows: rules.iter().map(cells).collect() };
        let again = read(&String::from_utf8(written.to_csv().unwrap()).unwrap()).unwrap();
        assert_eq!(again.rules, rules);
    }

    #[test]
    fn two_columns_are_enough_and_the_others_are_options() {
        let table = read("Target,Phrase\nhttps://a.example/,red torch; dim torch\n").unwrap();
        assert_eq!(table.rules.len(), 1);
        assert_eq!(table.rules[0].phrases.len(), 2);
        assert!(table.rules[0].matching.forms && table.faults.is_empty() && table.unknown_columns.is_empty());
        let text = "phrase;target;forms;per page;rel;colour\nMoon;https://a.example/;no;3;nofollow sponsored;red\n";
        let table = read(text).unwrap();
        let rule = &table.rules[0];
        assert!(!rule.matching.forms && rule.pace.per_page == 3);
        assert_eq!(rule.says, [LinkSays::Follow(false), LinkSays::Sponsored(true)]);
        assert_eq!(table.unknown_columns, ["colour"]);
    }

    #[test]
    fn rows_that_are_no_rules_are_told_with_their_numbers() {
        let text = "phrase,target,gap\nmoon,https://a.example/,\n,https://a.example/,\n…,https://a.example/,\n\
                    sun,,\nstar,nowhere,\nmars,https://a.example/,many\nmoon,https://a.example/,0\n";
        let table = read(text).unwrap();
        assert_eq!(table.rules.len(), 1);
        let told: Vec<_> = table.faults.iter().map(|(row, why)| format!("{row}: {why}")).collect();
        assert_eq!(
            told,
            [
                "3: there is no phrase",
                "4: There are no words in “…”.",
                "5: there is no target",
                "6: “nowhere” is no page here, and no address of another site",
                "7: “many” under “gap” should be a small whole number",
                "8: row 2 leads the same phrase there",
            ]
        );
        assert!(matches!(read("address,name\nhttps://a.example/,x\n"), Err(NoTable::NoColumn("phrase"))));
        assert!(matches!(read("phrase,to\nx,https://a.example/\n"), Err(NoTable::NoColumn("target"))));
    }

    fn lines() -> impl Strategy<Value = Vec<String>> {
        prop::collection::vec("[a-zé*/-]{1,8}", 0..3)
    }

    prop_compose! {
        fn any_rule()(
            words in prop::collection::vec("[A-Za-zé]{2,6}( [a-z]{2,6}){0,2}", 1..3),
            expressions in prop::collection::vec(prop::sample::select(vec!["M[0-9]+", "a;b|c", "[A-Z]{2} \\d", "x, y"]), 0..3),
            flags in prop::array::uniform5(any::<bool>()),
            gap in 0..=10_usize,
            beside in lines(),
            per_page in 1..=1000_usize,
            priority in -1000..=1000_i32,
            paths in lines(),
            not_paths in lines(),
            rel in prop::sample::subsequence(
                vec![LinkSays::Follow(false), LinkSays::Sponsored(true), LinkSays::UserContent(true), LinkSays::Rel("me".to_owned(), true)],
                0..4,
            ),
            title in prop::option::of("=?[A-Za-z;,“”\"]{1,8}"),
        ) -> Rule {
            let words = words.iter().map(|text| Phrase::words(text).unwrap());
            let expressions = expressions.iter().map(|text| Phrase::expression(text).unwrap());
            let target = Target::outside("https://a.example/").unwrap();
            let mut rule = Rule::new(RuleId(2), words.chain(expressions).collect(), target);
            rule.matching = Matching { forms: flags[0], keeps_case: flags[1], keeps_accents: flags[2], gap, not_beside: beside };
            (rule.pace.per_page, rule.pace.per_phrase, rule.priority) = (per_page, per_page, priority);
            rule.scope.paths = paths.into_iter().map(PathPattern).collect();
            rule.scope.not_paths = not_paths.into_iter().map(PathPattern).collect();
            rule.scope.blocks.headings = flags[3];
            let title = title.map(|title| LinkSays::Attribute("title".to_owned(), Some(title)));
            rule.says = rel.into_iter().chain(flags[4].then_some(LinkSays::NewTab(true))).chain(title).collect();
            rule
        }
    }

    proptest! {
        /// What is saved for a spreadsheet can be read in again, in both formats.
        #[test]
        fn every_rule_that_has_columns_for_all_of_it_comes_back(rule in any_rule()) {
            let row = cells_of(&rule, "https://a.example/").into_iter().map(Cell::Text).collect();
            let table = Table { headings: column_names().map(str::to_owned).collect(), rows: vec![row] };
            for bytes in [table.to_csv().unwrap(), table.to_xlsx("Rules").unwrap()] {
                let list = List::read(&bytes).unwrap();
                let target = |name: &str| Target::outside(name).ok();
                let read = RuleTable::read(&list, list.headings.as_deref().unwrap_or_default(), target).unwrap();
                prop_assert_eq!(&read.faults, &[]);
                prop_assert_eq!(&read.rules, std::slice::from_ref(&rule));
            }
        }
    }
}
