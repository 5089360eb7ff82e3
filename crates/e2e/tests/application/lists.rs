//! Whatever a list of pages is asked for, it is what somebody would pick by hand from all rows.

use std::cmp::Ordering;

use serde_json::Value;
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use strelm_e2e::stage::Stage;

const QUERIES: usize = 300;

const KINDS: [&str; 6] = ["page", "post", "product", "collection", "term_archive", "file"];

const ONLY: [&str; 7] = ["orphans", "unreachable", "dead_ends", "broken", "fresh", "in_tray", "offered"];

const NUMBERS: [&str; 11] = [
    "words",
    "links_in",
    "content_links_in",
    "links_out",
    "links_away",
    "broken",
    "openings_in",
    "best_in",
    "openings_out",
    "best_out",
    "depth",
];

const TEXTS: [&str; 6] = ["moon", "GUIDES", "observing", "star chart", "glossary product", "zzz"];

/// What is asked for.
#[derive(Debug, Default)]
struct Query {
    only: Option<&'static str>,
    kind: Option<&'static str>,
    text: Option<&'static str>,
    range: Option<(&'static str, Option<u64>, Option<u64>)>,
    sort: &'static str,
    descending: bool,
    offset: usize,
    limit: usize,
}

impl Query {
    fn random(random: &mut fastrand::Rng) -> Self {
        fn some<T: Copy>(random: &mut fastrand::Rng, chance: f64, all: &[T]) -> Option<T> {
            (random.f64() < chance).then(|| all[random.usize(..all.len())])
        }
        let sorts: Vec<_> = NUMBERS.into_iter().chain(["title", "address", "kind", "category", "attention"]).collect();
        let range = some(random, 0.5, &NUMBERS).map(|column| {
            let most = if matches!(column, "words" | "best_in" | "best_out") { 240 } else { 6 };
            let mut bound = || (random.f64() < 0.6).then(|| random.u64(..most));
            (column, bound(), bound())
        });
        Self {
            only: some(random, 0.3, &ONLY),
            kind: some(random, 0.2, &KINDS),
            text: some(random, 0.3, &TEXTS),
            range,
            sort: sorts[random.usize(..sorts.len())],
            descending: random.bool(),
            offset: if random.bool() { 0 } else { random.usize(..20) },
            limit: if random.bool() { 500 } else { random.usize(..20) },
        }
    }

    fn path(&self) -> String {
        let mut path = format!(
            "/pages?sort={}&descending={}&offset={}&limit={}",
            self.sort, self.descending, self.offset, self.limit
        );
        let mut add = |name: &str, value: Option<String>| {
            path.extend(value.map(|value| format!("&{name}={}", value.replace(' ', "+"))));
        };
        add("only", self.only.map(str::to_owned));
        add("kind", self.kind.map(str::to_owned));
        add("text", self.text.map(str::to_owned));
        let bound = |bound: Option<u64>| bound.map(|bound| bound.to_string()).unwrap_or_default();
        add("ranges", self.range.map(|(column, least, most)| format!("{column}:{}..{}", bound(least), bound(most))));
        path
    }

    fn passes(&self, row: &Value) -> bool {
        let is_file = row["kind"] == "file";
        let is_only = self.only.is_none_or(|only| match only {
            "orphans" => row["links_in"] == 0 && row["is_entry"] == false,
            "unreachable" => row["depth"].is_null(),
            "dead_ends" => row["links_out"] == 0 && row["words"] != 0 && !is_file,
            "broken" => row["broken"] != 0,
            "fresh" => row["is_fresh"] == true,
            "in_tray" => row["planned_in"] != 0 || row["planned_out"] != 0,
            _ => row["openings_in"] != 0,
        });
        let is_of_kind = self.kind.is_none_or(|kind| row["kind"] == kind);
        let says = |name: &str| row[name].as_str().unwrap_or_default().to_lowercase();
        let all = ["title", "path", "category", "kind"].map(says).join(" ");
        let holds = self.text.is_none_or(|text| text.split(' ').all(|word| all.contains(&word.to_lowercase())));
        let is_within = self.range.is_none_or(|(column, least, most)| match number(row, column) {
            Some(number) => least.is_none_or(|least| number >= least) && most.is_none_or(|most| number <= most),
            None => most.is_none(),
        });
        is_only && is_of_kind && holds && is_within
    }

    fn order(&self, one: &Value, other: &Value) -> Ordering {
        let text = |row: &Value, name: &str| row[name].as_str().map(str::to_lowercase);
        let place = |row: &Value| KINDS.iter().position(|kind| row["kind"] == *kind);
        let order = match self.sort {
            "title" | "category" => text(one, self.sort).cmp(&text(other, self.sort)),
            "address" => text(one, "address").cmp(&text(other, "address")),
            "kind" => place(one).cmp(&place(other)),
            column => number(one, column).unwrap_or(u64::MAX).cmp(&number(other, column).unwrap_or(u64::MAX)),
        };
        let order = if self.descending { order.reverse() } else { order };
        order.then_with(|| text(one, "address").cmp(&text(other, "address")))
    }
}

/// A figure as it is shown: whole, but for attention, which is told apart more finely. Nothing for the depth of what is
/// out of reach.
fn number(row: &Value, column: &str) -> Option<u64> {
    match column {
        "depth" => row["depth"].as_u64(),
        "best_in" | "best_out" => Some(row[column].as_f64().unwrap_or_default().round() as u64),
        "attention" => Some((row[column].as_f64().unwrap() * 100.0).round() as u64),
        _ => row[column].as_u64(),
    }
}

#[sqlx::test(migrations = false)]
async fn lists_of_pages_are_what_is_picked_by_hand(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    stage.take("/guides/red-torch/", "/guides/dark-adaptation/").await.unwrap();
    let all = stage.get("/pages?limit=500").await.unwrap()["rows"].as_array().unwrap().clone();
    assert!(all.len() > 50 && all.iter().any(|row| row["planned_in"] != 0));
    let mut random = fastrand::Rng::with_seed(5);
    let mut filled = 0;
    for _ in 0..QUERIES {
        let query = Query::random(&mut random);
        let mut picked: Vec<&Value> = all.iter().filter(|row| query.passes(row)).collect();
        picked.sort_by(|one, other| query.order(one, other));
        let total = picked.len();
        let picked: Vec<_> = picked.into_iter().skip(query.offset).take(query.limit).collect();
        let told = stage.get(&query.path()).await.unwrap();
        assert_eq!(told["total"], total, "{query:?}");
        let (told, picked): (Vec<_>, Vec<_>) = (
            told["rows"].as_array().unwrap().iter().map(|row| &row["path"]).collect(),
            picked.iter().map(|row| &row["path"]).collect(),
        );
        assert_eq!(told, picked, "{query:?}");
        filled += usize::from(told.len() > 1);
    }
    assert!(filled > QUERIES / 4, "only {filled} lists had something to sort");
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn whatever_is_typed_finds_all_pages_that_are_called_so_first(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let all = stage.get("/pages?limit=500").await.unwrap()["rows"].as_array().unwrap().clone();
    let says = |row: &Value, name: &str| row[name].as_str().unwrap_or_default().to_lowercase();
    let words: Vec<String> = all
        .iter()
        .flat_map(|row| says(row, "title").split_whitespace().map(str::to_owned).collect::<Vec<_>>())
        .collect();
    let mut random = fastrand::Rng::with_seed(7);
    for _ in 0..60 {
        let typed: Vec<_> = (0..random.usize(1..3)).map(|_| words[random.usize(..words.len())].clone()).collect();
        // A part of the last word, as while somebody types.
        let mut typed = typed.join(" ");
        for _ in 0..random.usize(..3) {
            typed.pop();
        }
        let asked = typed.split_whitespace().map(|word| word.replace('&', "%26")).collect::<Vec<_>>().join("+");
        let found = stage.get(&format!("/find?text={asked}")).await.unwrap();
        let found = found.as_array().unwrap();
        let holds = |text: &str| typed.split_whitespace().all(|word| text.contains(word));
        let called: Vec<_> = all.iter().filter(|row| holds(&says(row, "title"))).map(|row| &row["number"]).collect();
        let by_title: Vec<_> =
            found.iter().take_while(|found| found["place"] == "title").map(|found| &found["page"]["number"]).collect();
        assert!(by_title.iter().all(|number| called.contains(number)), "{typed}: {found:?}");
        assert_eq!(by_title.len(), if asked.is_empty() { 0 } else { called.len().min(20) }, "{typed}: {found:?}");
        let mut numbers: Vec<_> = found.iter().map(|found| found["page"]["number"].as_u64()).collect();
        numbers.sort_unstable();
        numbers.dedup();
        assert_eq!(numbers.len(), found.len(), "no page twice");
    }
    stage.strike().await;
}
