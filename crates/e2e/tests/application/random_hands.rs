//! Whatever is decided, undone, set, read and released, in whatever order: a server that followed all of it shows what one
//! shows that loads the site anew.

use serde_json::{Value, json};
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use strelm_e2e::calls::{pass_of, take_of};
use strelm_e2e::stage::Stage;

/// The hands that decide, by number.
const HANDS: u8 = 2;

const STEPS: usize = 120;

/// Of each many steps so many, on the average.
const CHANCES: [(u32, Step); 9] = [
    (40, Step::Take),
    (15, Step::Pass),
    (15, Step::Undo),
    (10, Step::Redo),
    (8, Step::Drop),
    (5, Step::Repair),
    (5, Step::SetRules),
    (3, Step::SetRoads),
    (4, Step::ChangePage),
];

#[derive(Debug, Clone, Copy)]
enum Step {
    Take,
    Pass,
    Undo,
    Redo,
    Drop,
    Repair,
    SetRules,
    SetRoads,
    ChangePage,
}

struct Hands {
    stage: Stage,
    random: fastrand::Rng,
    /// By number.
    pages: Vec<(u64, String)>,
    /// How often each kind of step changed something.
    done: std::collections::BTreeMap<String, usize>,
}

impl Hands {
    async fn of(stage: Stage, seed: u64) -> Self {
        let rows = stage.get("/pages?sort=address").await.unwrap();
        let page = |row: &Value| (row["number"].as_u64().unwrap(), row["path"].as_str().unwrap().to_owned());
        let pages = rows["rows"].as_array().unwrap().iter().map(page).collect();
        Self { stage, random: fastrand::Rng::with_seed(seed), pages, done: Default::default() }
    }

    fn step(&mut self) -> Step {
        let all: u32 = CHANCES.iter().map(|(chance, _)| chance).sum();
        let mut left = self.random.u32(..all);
        for (chance, step) in CHANCES {
            match left.checked_sub(chance) {
                Some(rest) => left = rest,
                None => return step,
            }
        }
        Step::Take
    }

    fn one_of(&mut self, rows: &Value) -> Option<Value> {
        let rows = rows.as_array()?;
        (!rows.is_empty()).then(|| rows[self.random.usize(..rows.len())].clone())
    }

    /// Any opening of any page, in either direction.
    async fn opening(&mut self) -> Option<Value> {
        let page = self.pages[self.random.usize(..self.pages.len())].0;
        let desk = self.stage.get(&format!("/pages/{page}/desk")).await.unwrap();
        let side = if self.random.bool() { "openings_in" } else { "openings_out" };
        self.one_of(&desk[side])
    }

    async fn decide(&mut self, what: Value) -> u16 {
        self.turn("/decisions", json!({"what": what})).await
    }

    async fn turn(&mut self, path: &str, mut body: Value) -> u16 {
        body["hand"] = json!(uuid::Uuid::from_u128(u128::from(self.random.u8(1..=HANDS))));
        body["key"] = json!(uuid::Uuid::new_v4());
        let (status, told) = self.stage.call("POST", path, Some(body)).await.unwrap();
        assert!(status == 200 || status == 409 && told["message"].is_string(), "{path}: {status} {told}");
        status
    }

    /// `None` where there is nothing to do it to; else what the server answered.
    async fn take_step(&mut self, step: Step) -> Option<u16> {
        Some(match step {
            Step::Take => {
                let opening = self.opening().await?;
                self.decide(take_of(&opening)).await
            }
            Step::Pass => {
                let opening = self.opening().await?;
                let scope = ["place", "pair", "page"][self.random.usize(..3)];
                self.decide(pass_of(&opening, scope)).await
            }
            Step::Undo => self.turn("/undo", json!({})).await,
            Step::Redo => self.turn("/redo", json!({})).await,
            Step::Drop => {
                let tray = self.stage.get("/tray").await.unwrap();
                let page = self.one_of(&tray)?;
                let link = self.one_of(&page["links"])?;
                self.decide(json!({"kind": "drop", "changes": [link["change"]]})).await
            }
            Step::Repair => {
                let today = self.stage.get("/today").await.unwrap();
                let repair = self.one_of(&today["broken"]["first"])?["repair"].clone();
                let target = if self.random.bool() { repair["likeliest"]["number"].clone() } else { Value::Null };
                let mut what = repair;
                what["kind"] = json!("repair");
                what["target"] = target;
                self.decide(what).await
            }
            Step::SetRules => {
                let mut limits = self.stage.get("/limits").await.unwrap()["limits"].clone();
                limits["per_sentence"] = json!(self.random.u8(1..3));
                limits["words_per_link"] = json!([10, 40, 100][self.random.usize(..3)]);
                limits["links_back"] = json!(self.random.bool());
                limits["never_words"] = if self.random.bool() { json!(["red torch"]) } else { json!([]) };
                self.stage.call("PUT", "/limits", Some(limits)).await.unwrap().0
            }
            Step::SetRoads => {
                let mut settings = self.stage.get("/settings").await.unwrap();
                settings["roads"] = json!(if self.random.bool() { "content" } else { "all" });
                settings["heeds_nofollow"] = json!(self.random.bool());
                self.stage.call("PUT", "/settings", Some(settings)).await.unwrap().0
            }
            Step::ChangePage => {
                let path = self.pages[self.random.usize(..self.pages.len())].1.clone();
                let other = self.pages[self.random.usize(..self.pages.len())].1.clone();
                let html = format!("<p>Averted vision and a red torch, and <a href=\"{other}\">more</a>.</p>");
                self.stage.change_live_page(&path, &html).await.ok()?;
                self.stage.read_again().await.unwrap();
                200
            }
        })
    }

    async fn go_on(&mut self, steps: usize) {
        for _ in 0..steps {
            let step = self.step();
            if let Some(200..300) = self.take_step(step).await {
                *self.done.entry(format!("{step:?}")).or_default() += 1;
            }
        }
    }
}

/// What two servers show must be the same.
async fn agree(stage: &Stage, seed: u64) {
    let anew = stage.second_server().await.unwrap();
    let loaded = stage.everything(|path| anew.address(path)).await.unwrap();
    let followed = stage.everything(|path| stage.address(path)).await.unwrap();
    for what in ["status", "limits", "tray"] {
        assert_eq!(followed[what], loaded[what], "{what} with seed {seed}");
    }
    let rows = |told: &Value, of: &str| told[of].as_array().cloned().unwrap_or_default();
    let (followed_rows, loaded_rows) = (rows(&followed["pages"], "rows"), rows(&loaded["pages"], "rows"));
    for (one, other) in followed_rows.iter().zip(&loaded_rows) {
        assert_eq!(one, other, "the row of {} with seed {seed}", one["path"]);
    }
    assert_eq!(followed_rows.len(), loaded_rows.len());
    for (one, other) in rows(&followed, "desks").iter().zip(&rows(&loaded, "desks")) {
        assert_eq!(one, other, "the Desk of {} with seed {seed}", one["page"]["path"]);
    }
    anew.stop().await;
}

#[sqlx::test(migrations = false)]
async fn a_server_that_followed_shows_what_one_shows_that_is_new(_: PgPoolOptions, options: PgConnectOptions) {
    let seed = std::env::var("STRELM_SEED").ok().and_then(|seed| seed.parse().ok()).unwrap_or(1);
    let mut hands = Hands::of(Stage::read_in(options).await.unwrap(), seed).await;
    hands.go_on(STEPS).await;
    agree(&hands.stage, seed).await;
    // What is released is read again, and the rest goes on.
    hands.stage.release().await.unwrap();
    hands.go_on(STEPS / 4).await;
    agree(&hands.stage, seed).await;
    for step in ["Take", "Pass", "Undo", "Drop", "Repair", "SetRules", "SetRoads", "ChangePage"] {
        assert!(hands.done.contains_key(step), "{step} never changed anything: {:?}", hands.done);
    }
    hands.stage.strike().await;
}
