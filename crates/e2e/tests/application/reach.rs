//! Reach and rescue: what the chart tells, what the planner heeds, and all pages of the demo brought back within reach.

use std::collections::{BTreeMap, BTreeSet};

use fantoccini::Locator;
use fantoccini::key::Key;
use serde_json::{Value, json};
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use strelm_e2e::browser::Browser;
use strelm_e2e::calls::pass_of;
use strelm_e2e::stage::{Stage, http};
use strelm_standins::live_site::Order;

/// What a rescue is to bring about where nothing else is said.
fn wish() -> Value {
    json!({
        "pages": null, "depth": 4, "links_in": 1, "per_page": 3, "least_fit": 30, "same_category": false,
        "both_ways": true, "prefer_equity": false, "untouched": [], "kept": [], "seconds": 2
    })
}

/// The lines with which a rescue is answered.
async fn rescue(stage: &Stage, wish: &Value) -> Vec<Value> {
    let address = stage.address(&format!("api/sites/{}/reach/rescue", stage.site.0));
    let answer = http().unwrap().post(address).json(wish).send().await.unwrap();
    assert_eq!(answer.status(), 200, "{wish}");
    let text = answer.text().await.unwrap();
    text.lines().map(|line| serde_json::from_str(line).unwrap()).collect()
}

/// The plan at last.
async fn plan(stage: &Stage, wish: &Value) -> Value {
    let lines = rescue(stage, wish).await;
    lines.into_iter().rfind(|line| line["kind"] == "plan").unwrap()
}

fn with(changes: Value) -> Value {
    let mut wish = wish();
    for (key, value) in changes.as_object().unwrap() {
        wish[key] = value.clone();
    }
    wish
}

/// Pages in each depth, those out of reach by no depth.
async fn bands(stage: &Stage, of: &str) -> BTreeMap<Option<u64>, u64> {
    let chart = stage.get("/reach").await.unwrap();
    let bands = chart["bands"].as_array().unwrap().iter();
    bands.map(|band| (band["depth"].as_u64(), band[of].as_u64().unwrap())).filter(|(_, pages)| *pages > 0).collect()
}

fn rows(plan: &Value) -> Vec<(u64, u64)> {
    let rows = plan["rows"].as_array().unwrap().iter().map(|row| &row["opening"]);
    rows.map(|opening| (opening["source"].as_u64().unwrap(), opening["target"].as_u64().unwrap())).collect()
}

#[sqlx::test(migrations = false)]
async fn the_chart_and_the_planner_tell_the_same_as_the_pages_and_heed_what_is_wished(
    _: PgPoolOptions,
    options: PgConnectOptions,
) {
    let stage = Stage::read_in_whole(options).await.unwrap();
    let status = stage.get("").await.unwrap();
    let chart = stage.get("/reach").await.unwrap();
    assert_eq!(chart["is_settled"], true);
    let pages = stage.get("/pages?limit=500").await.unwrap();
    let known: BTreeMap<u64, &Value> =
        pages["rows"].as_array().unwrap().iter().map(|row| (row["number"].as_u64().unwrap(), row)).collect();
    let numbers = chart["numbers"].as_array().unwrap();
    assert_eq!(numbers.len(), known.len());
    let mut equity = 0.0;
    for (at, number) in numbers.iter().enumerate() {
        let row = known[&number.as_u64().unwrap()];
        assert_eq!(chart["depths"][at], row["depth"]);
        assert_eq!(chart["kinds"][chart["kind"][at].as_u64().unwrap() as usize], row["kind"]);
        let category = chart["category"][at].as_u64().map(|category| &chart["categories"][category as usize]);
        assert_eq!(category.cloned().unwrap_or_default(), row["category"]);
        equity += chart["equity"][at].as_f64().unwrap();
        assert!((chart["equity"][at].as_f64().unwrap() - row["equity"].as_f64().unwrap()).abs() < 0.001);
    }
    // The average page has 1.
    assert!((equity / numbers.len() as f64 - 1.0).abs() < 0.01, "{equity}");
    assert_eq!(chart["orphans"].as_array().unwrap().len() as u64, status["orphans"].as_u64().unwrap());
    let groups = stage.get("/reach/equity").await.unwrap();
    for by in ["categories", "kinds"] {
        let shares: f64 = groups[by].as_array().unwrap().iter().map(|group| group["now"].as_f64().unwrap()).sum();
        assert!((shares - 1.0).abs() < 1e-6, "{by}: {shares}");
    }
    let hanging = stage.get("/reach/hanging").await.unwrap();
    let on_islands: u64 =
        hanging["islands"].as_array().unwrap().iter().map(|island| island["size"].as_u64().unwrap()).sum();
    assert_eq!(chart["islands"].as_array().unwrap().len() as u64, on_islands);
    assert_eq!(stage.get("/pages?only=islands").await.unwrap()["total"].as_u64().unwrap(), on_islands);
    assert_eq!(stage.get("/pages?only=threads").await.unwrap()["total"], hanging["thread_count"]);
    let category = chart["categories"][0].as_str().unwrap();
    let of_category = stage.get(&format!("/pages?category={category}")).await.unwrap();
    assert_eq!(
        of_category["total"].as_u64().unwrap() as usize,
        known.values().filter(|row| row["category"] == category).count()
    );
    // The way to a page has as many steps as it is deep.
    let deep = known.values().max_by_key(|row| row["depth"].as_u64()).unwrap();
    let reach = stage.get(&format!("/reach/pages/{}", deep["number"])).await.unwrap();
    assert_eq!(reach["way"].as_array().unwrap().len() as u64, deep["depth"].as_u64().unwrap() + 1);
    let flow = stage.get("/reach/flow?around=true").await.unwrap();
    let counted: u64 = flow["groups"].as_array().unwrap().iter().map(|group| group["pages"].as_u64().unwrap()).sum();
    assert_eq!(counted as usize, known.len());

    // The plan helps as many as its effect says, and what cannot be has a reason and a step.
    let lines = rescue(&stage, &wish()).await;
    assert_eq!(lines[0]["kind"], "looking");
    let effect = lines.last().unwrap();
    assert_eq!(effect["kind"], "effect");
    let first = plan(&stage, &wish()).await;
    assert_eq!((&first["is_final"], &first["wanted"]), (&json!(true), &status["unreachable"]));
    let lost = effect["bands"].as_array().unwrap().iter().find(|band| band["depth"].is_null()).unwrap();
    let helped = first["helped"].as_u64().unwrap();
    assert!(helped >= 16 && lost["now"].as_u64().unwrap() - lost["after"].as_u64().unwrap() >= helped);
    assert_eq!(first["left_count"].as_u64().unwrap() + helped, first["wanted"].as_u64().unwrap());
    let of_left = |left: &Value| 1 + left["follower_count"].as_u64().unwrap();
    let left: u64 = first["left"].as_array().unwrap().iter().map(of_left).sum();
    assert_eq!(first["left_count"], left, "each stands for itself or follows another");
    assert_eq!(first["left"][0]["follower_count"], 12, "the gate of the largest island comes first");
    assert!(first["left"].as_array().unwrap().iter().all(|left| left["why"].as_str().unwrap().ends_with('.')));

    // A page that is left alone carries nothing, a link that is kept stays with its words, one that was passed does not
    // come again, and each other wish holds for every row.
    let rows_of_first = rows(&first);
    let alone = plan(&stage, &with(json!({"untouched": [rows_of_first[0].0]}))).await;
    assert!(rows(&alone).iter().all(|(source, _)| *source != rows_of_first[0].0));
    let other = rows(&alone).into_iter().find(|row| !rows_of_first.contains(row));
    if let Some((source, target)) = other {
        let row = alone["rows"].as_array().unwrap().iter().map(|row| &row["opening"]);
        let opening = row.clone().find(|o| o["source"] == source && o["target"] == target).unwrap();
        let kept = json!([{"source": source, "target": target, "words_start": opening["words_start"], "words_end": opening["words_end"]}]);
        let plan = plan(&stage, &with(json!({"kept": kept}))).await;
        assert!(rows(&plan).contains(&(source, target)));
        assert!(plan["rows"].as_array().unwrap().iter().any(|row| row["kept"] == true));
    }
    let gone = json!([{"source": rows_of_first[0].0, "target": rows_of_first[0].1, "words_start": 0, "words_end": 1}]);
    assert_eq!(plan(&stage, &with(json!({"kept": gone}))).await["lost"], 1);
    let one = json!([rows_of_first[0].1]);
    let of_one = plan(&stage, &with(json!({"pages": one}))).await;
    assert_eq!((&of_one["wanted"], &of_one["helped"]), (&json!(1), &json!(1)));
    let within = plan(&stage, &with(json!({"same_category": true, "links_in": 2, "both_ways": false}))).await;
    let links: BTreeSet<(u64, u64)> = rows(&within).into_iter().collect();
    for (source, target) in &links {
        assert!(known[source]["category"].is_string() && known[source]["category"] == known[target]["category"]);
        assert!(!links.contains(&(*target, *source)));
    }
    let by_equity = plan(&stage, &with(json!({"prefer_equity": true}))).await;
    assert_eq!((&by_equity["helped"], &by_equity["edited"]), (&first["helped"], &first["edited"]));
    let passed = &first["rows"][0]["opening"];
    assert_eq!(stage.decide(pass_of(passed, "pair")).await.unwrap().0, 200);
    let without = plan(&stage, &wish()).await;
    assert!(!rows(&without).contains(&rows_of_first[0]));

    // What cannot be wished for is refused in words.
    for nonsense in [
        json!({"depth": 0}),
        json!({"links_in": 21}),
        json!({"per_page": 0}),
        json!({"least_fit": 101}),
        json!({"seconds": 61}),
    ] {
        let (status, body) = stage.call("POST", "/reach/rescue", Some(with(nonsense.clone()))).await.unwrap();
        assert_eq!(status, 422, "{nonsense}: {body}");
    }
    // Equity follows how it is counted.
    let mut settings = stage.get("/settings").await.unwrap();
    settings["token"] = Value::Null;
    settings["equity"] = json!({"content": 1.0, "menu": 0.0, "footer": 0.0, "damping": 0.5});
    assert_eq!(stage.call("PUT", "/settings", Some(settings.clone())).await.unwrap().0, 204);
    let anew = stage.get("/reach/equity").await.unwrap();
    assert_eq!(anew["rules"], settings["equity"]);
    assert_ne!(anew["categories"], groups["categories"]);
    settings["equity"]["damping"] = json!(0.99);
    assert_eq!(stage.call("PUT", "/settings", Some(settings)).await.unwrap().0, 422);
    stage.strike().await;
}

async fn click(browser: &Browser, css: &str, text: &str) {
    browser.wait_for(css, text).await.unwrap().click().await.unwrap();
}

/// Links a page by hand from some words of another that can carry it.
async fn link_by_hand(stage: &Stage, source: u64, target: u64, from: &mut usize) {
    for start in (*from..20_000).step_by(40) {
        let around = format!("/openings/around?source={source}&target={target}&start={start}&end={}", start + 4);
        let (status, body) = stage.call("GET", &around, None).await.unwrap();
        if status != 200 {
            continue;
        }
        let words = body["words"].as_array().unwrap();
        let Some(word) = words.iter().find(|word| word["text"].as_str().unwrap().len() > 4) else { continue };
        let link = json!({
            "source": source, "target": target, "by_hand": true, "version": body["version"],
            "words_start": word["start"], "words_end": word["end"],
        });
        if stage.decide(json!({"kind": "take", "links": [link]})).await.unwrap().0 == 200 {
            *from = start + 40;
            return;
        }
    }
    panic!("no words of {source} can carry a link to {target}");
}

#[sqlx::test(migrations = false)]
async fn all_of_the_demo_is_rescued_released_read_again_and_taken_back(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in_whole(options).await.unwrap();
    let browser = Browser::start().await.unwrap();
    let before = bands(&stage, "now").await;
    let lost = before[&None];
    browser.client.goto(&stage.address("")).await.unwrap();
    browser.wait_for("h2", &format!("{lost} pages out of reach")).await.unwrap();

    // By the keys to Reach, and to a page of the chart with its way; its facts.
    browser.press("g").await.unwrap();
    browser.press("r").await.unwrap();
    browser.wait_for("h1", "Reach").await.unwrap();
    browser.wait_for("[role=status]", &format!("{lost} pages fall short of that.")).await.unwrap();
    let soundings = browser.client.find(Locator::Css("[data-testid=soundings]")).await.unwrap();
    for key in [Key::Down, Key::Down, Key::Down, Key::Right] {
        soundings.send_keys(&key.to_string()).await.unwrap();
    }
    browser.wait_for("section[aria-label=Soundings] p", " › ").await.unwrap();
    soundings.send_keys(&Key::Enter.to_string()).await.unwrap();
    browser.wait_for("section[aria-label='The page'] h3", "The way there").await.unwrap();
    browser.wait_for("section[aria-label='The page'] p", "times the average page").await.unwrap();
    click(&browser, "button", "Back to the rescue").await;

    // The plan is taken with one press, and comes out of the tray with one undo.
    let take = browser.wait_for("section[aria-label=Rescue] footer button", "Take all").await.unwrap();
    let links: usize =
        take.text().await.unwrap().chars().filter(char::is_ascii_digit).collect::<String>().parse().unwrap();
    let helped = plan(&stage, &wish()).await["helped"].as_u64().unwrap();
    take.send_keys(&Key::Enter.to_string()).await.unwrap();
    browser.wait_for("[data-testid=tray-figures]", &format!("{links} links on")).await.unwrap();
    browser
        .wait_for("section[aria-label=Rescue] [role=status]", &format!("{} pages fall short", lost - helped))
        .await
        .unwrap();
    browser.wait_for("section[aria-label=Soundings] p", "stand elsewhere than now").await.unwrap();
    browser.press("u").await.unwrap();
    browser.wait_for("section[aria-label=Rescue] [role=status]", &format!("{lost} pages fall short")).await.unwrap();
    browser.press("U").await.unwrap();
    browser
        .wait_for("section[aria-label=Rescue] [role=status]", &format!("{} pages fall short", lost - helped))
        .await
        .unwrap();

    // Who is left is linked by hand, from where the planner says; what follows another comes with it.
    let left = plan(&stage, &wish()).await["left"].clone();
    let mut from: BTreeMap<u64, usize> = BTreeMap::new();
    let guides = stage.page("/guides/").await.unwrap()["number"].as_u64().unwrap();
    for page in left.as_array().unwrap().iter() {
        let source = page["with"]["number"].as_u64().filter(|_| page["step"] == "bridge").unwrap_or(guides);
        link_by_hand(&stage, source, page["page"]["number"].as_u64().unwrap(), from.entry(source).or_default()).await;
    }
    // One that followed is too deep still, and now an opening helps.
    browser.wait_for("section[aria-label=Rescue] [role=status]", "1 page falls short of that.").await.unwrap();
    click(&browser, "section[aria-label=Rescue] footer button", "Take the link").await;
    browser.wait_for("section[aria-label=Rescue] [role=status]", "Every page is within 4 clicks").await.unwrap();
    let predicted = bands(&stage, "after").await;
    assert!(predicted.keys().all(|depth| depth.is_some_and(|depth| depth <= 4)), "{predicted:?}");
    let equity = stage.get("/reach/equity").await.unwrap();
    assert_eq!(equity["with_tray"], true);

    // Out, and read again: the figures are those that were foretold, and Today tells what came and by which links.
    stage.release().await.unwrap();
    stage.read_again().await.unwrap();
    assert_eq!(bands(&stage, "now").await, predicted);
    let after = stage.get("/reach/equity").await.unwrap();
    for (foretold, now) in equity["categories"].as_array().unwrap().iter().zip(after["categories"].as_array().unwrap())
    {
        let of = |name: &Value| {
            let groups = equity["categories"].as_array().unwrap().iter();
            groups.clone().find(|group| &group["name"] == name).unwrap()["after"].as_f64().unwrap()
        };
        let told = of(&now["name"]);
        assert!((told - now["now"].as_f64().unwrap()).abs() < 1e-6, "{foretold} {now}");
    }
    let today = async || {
        for _ in 0..200 {
            let today = stage.get("/today").await.unwrap();
            let is_told = today["came_count"].as_u64() > Some(0) || today["lost_count"].as_u64() > Some(0);
            if is_told && today["is_sounding"] == false {
                return today;
            }
            tokio::time::sleep(std::time::Duration::from_millis(50)).await;
        }
        panic!("Today does not tell what came within reach");
    };
    let told = today().await;
    assert_eq!(told["came_count"], lost);
    let came = told["came"].clone();
    assert!(came.as_array().unwrap().iter().all(|row| row["edit"] == "link"), "{came}");
    browser.press("g").await.unwrap();
    browser.press("t").await.unwrap();
    browser.wait_for("h2", &format!("{lost} pages came within reach")).await.unwrap();

    // Taken back and read again, all is as it was, and Today tells that too; what vanishes takes others with it.
    let release = stage.get("/releases").await.unwrap()[0]["release"].clone();
    assert_eq!(stage.call("POST", &format!("/releases/{release}/take-back"), None).await.unwrap().0, 202);
    stage.release_in(&["taken_back"]).await.unwrap();
    stage.read_again().await.unwrap();
    assert_eq!(bands(&stage, "now").await, before);
    browser.wait_for("h2", &format!("{lost} pages lost since the reading before")).await.unwrap();
    assert_eq!(today().await["lost"][0]["edit"], "link");
    let hanging = stage.get("/reach/hanging").await.unwrap();
    let thread =
        hanging["threads"].as_array().unwrap().iter().find(|thread| thread["hanging"].as_u64() > Some(1)).unwrap();
    stage.live.obey(Order::Delete { path: thread["over"]["path"].as_str().unwrap().to_owned() }).unwrap();
    stage.read_again().await.unwrap();
    let gone = today().await;
    assert!(gone["lost_count"].as_u64() >= Some(1), "{gone}");
    let findings = browser.axe().await.unwrap();
    assert!(findings.is_empty(), "{findings:#?}");
    assert_eq!(browser.complaints().await.unwrap(), [] as [String; 0]);
    browser.end().await.unwrap();
    stage.strike().await;
}
