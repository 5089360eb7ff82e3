//! What can be done with openings: other words, other targets, own wording; passing in three scopes; many at once; limits
//! of the house; and what decisions teach.

use std::collections::BTreeMap;

use serde_json::{Value, json};
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use strelm_e2e::calls::{pass_of, take_of};
use strelm_e2e::stage::Stage;

const SOURCE: &str = "/guides/dark-adaptation/";
const TORCH: &str = "/guides/red-torch/";

async fn number(stage: &Stage, path: &str) -> Value {
    stage.page(path).await.unwrap()["number"].clone()
}

/// What can be done with words of a page, as they are selected.
async fn around(stage: &Stage, source: &str, anchor: &str) -> Value {
    let source = number(stage, source).await;
    let query = format!("/openings/around?source={source}&anchor={}", anchor.replace(' ', "%20"));
    stage.get(&query).await.unwrap()
}

fn by_hand(around: &Value, target: &Value) -> Value {
    json!({
        "source": around["source"], "target": target, "words_start": around["words_start"],
        "words_end": around["words_end"], "version": around["version"], "by_hand": true,
    })
}

fn paths(openings: &Value) -> Vec<String> {
    openings.as_array().unwrap().iter().map(|o| o["page"]["path"].as_str().unwrap().to_owned()).collect()
}

#[sqlx::test(migrations = false)]
async fn words_of_ones_own_choice_lead_where_one_wants(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let found = around(&stage, SOURCE, "light of a red torch").await;
    assert_eq!(found["refusal"], Value::Null);
    let chosen: Vec<_> = found["words"].as_array().unwrap().iter().filter(|word| word["chosen"] == true).collect();
    assert_eq!(chosen.len(), 5, "the words of the sentence, to widen and narrow");
    assert_eq!(found["targets"][0]["page"]["path"], TORCH, "{:#}", found["targets"]);
    // Another target than the likeliest.
    let target = number(&stage, "/glossary/airglow/").await;
    let take = json!({"kind": "take", "links": [by_hand(&found, &target)]});
    assert_eq!(stage.decide(take.clone()).await.unwrap().0, 200);
    let tray = stage.get("/tray").await.unwrap();
    assert_eq!(tray[0]["links"][0]["sentence"]["anchor"], "light of a red torch");
    let (status, problem) = stage.decide(take).await.unwrap();
    assert_eq!((status, problem["message"].as_str().unwrap().contains("in the tray already")), (409, true));
    let again = around(&stage, SOURCE, "red torch").await;
    assert!(again["refusal"].as_str().unwrap().contains("in the tray already"));
    // The page itself, a heading and words that are not there are refused.
    let own = number(&stage, SOURCE).await;
    let free = around(&stage, SOURCE, "faint things").await;
    let (status, _) = stage.decide(json!({"kind": "take", "links": [by_hand(&free, &own)]})).await.unwrap();
    assert_eq!(status, 409);
    let query = format!("/openings/around?source={own}&anchor=nothing%20like%20it");
    assert_eq!(stage.call("GET", &query, None).await.unwrap().0, 409);
    stage.release().await.unwrap();
    let after = stage.live_source(SOURCE).await.unwrap();
    assert!(after.contains("<a href=\"/glossary/airglow/\">light of a red torch</a>"), "{after}");
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn a_sentence_of_ones_own_goes_out_and_comes_back(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let before = stage.live_source(SOURCE).await.unwrap();
    let opening = stage.opening(TORCH, SOURCE).await.unwrap();
    let mut link = take_of(&opening)["links"][0].clone();
    link["by_hand"] = json!(true);
    let worded = |before: &str, anchor: &str, after: &str| {
        let mut link = link.clone();
        link["wording"] = json!({"before": before, "anchor": anchor, "after": after});
        json!({"kind": "take", "links": [link]})
    };
    let sentence = &opening["sentence"];
    let text = |key: &str| sentence[key].as_str().unwrap();
    for (unusable, status) in [
        (worded("Read by ", "  ", " light."), 422),
        (worded(text("before"), text("anchor"), text("after")), 422),
        (worded(&"long ".repeat(500), "red", "."), 422),
    ] {
        assert_eq!(stage.decide(unusable).await.unwrap().0, status);
    }
    let (status, body) =
        stage.decide(worded("Read your charts by a ", "dim red torch", " & nothing <else>.")).await.unwrap();
    assert_eq!(status, 200, "{body}");
    let tray = stage.get("/tray").await.unwrap();
    let change = &tray[0]["links"][0];
    assert_eq!((&change["doing"], &change["sentence"]["anchor"]), (&json!("reword"), &json!("dim red torch")));
    assert_eq!(change["was"], format!("{}{}{}", text("before"), text("anchor"), text("after")));
    let release = stage.release().await.unwrap();
    let after = stage.live_source(SOURCE).await.unwrap();
    let written = "Read your charts by a <a href=\"/guides/red-torch/\">dim red torch</a> &amp; nothing &lt;else&gt;.";
    assert!(after.contains(written), "{after}");
    let id = &release["release"];
    assert_eq!(stage.call("POST", &format!("/releases/{id}/take-back"), None).await.unwrap().0, 202);
    stage.release_in(&["taken_back"]).await.unwrap();
    assert_eq!(stage.live_source(SOURCE).await.unwrap(), before, "every byte is back");
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn a_place_a_pair_and_a_page_are_passed(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let twice =
        "<p>By day nobody needs a red torch here at all.</p><p>At night take a red torch with you to the hill.</p>";
    stage.change_live_page("/guides/collimation/", twice).await.unwrap();
    stage.read_again().await.unwrap();
    let first = stage.opening(TORCH, "/guides/collimation/").await.unwrap();
    assert_eq!(stage.decide(pass_of(&first, "place")).await.unwrap().0, 200);
    let second = stage.opening(TORCH, "/guides/collimation/").await.unwrap();
    assert_ne!(first["words_start"], second["words_start"], "the other place is offered in its stead");
    assert_eq!(stage.decide(pass_of(&second, "pair")).await.unwrap().0, 200);
    assert!(stage.opening(TORCH, "/guides/collimation/").await.is_err());
    let other = stage.opening(TORCH, SOURCE).await.unwrap();
    assert_eq!(stage.decide(pass_of(&other, "page")).await.unwrap().0, 200);
    let desk = stage.desk(TORCH).await.unwrap();
    assert_eq!(desk["openings_in"], json!([]));
    assert!(desk["nothing_in"].as_str().unwrap().contains("passed"), "{}", desk["nothing_in"]);
    let row = stage.page(TORCH).await.unwrap();
    assert_eq!((&row["openings_in"], &row["best_in"]), (&json!(0), &Value::Null));
    assert_eq!(desk["passed"].as_array().unwrap().len(), 3);
    // A new sentence around the words is a new place; what else was passed stays passed.
    for passed in desk["passed"].as_array().unwrap().iter().filter(|passed| passed["one_place"] == false) {
        let back = json!({"kind": "bring_back", "passed": passed["passed"]});
        assert_eq!(stage.decide(back).await.unwrap().0, 200);
    }
    assert_eq!(stage.opening(TORCH, "/guides/collimation/").await.unwrap()["words_start"], second["words_start"]);
    assert_eq!(stage.decide(pass_of(&second, "place")).await.unwrap().0, 200);
    let is_above = first["words_start"].as_u64() < second["words_start"].as_u64();
    let (from, to) = if is_above { ("here at all", "here ever") } else { ("to the hill", "to our hill") };
    let changed = twice.replace(from, to);
    stage.change_live_page("/guides/collimation/", &changed).await.unwrap();
    stage.read_again().await.unwrap();
    let third = stage.opening(TORCH, "/guides/collimation/").await.unwrap();
    assert_eq!(third["words_start"], first["words_start"], "its sentence is another one, so it is offered again");
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn the_best_of_many_pages_are_looked_at_taken_and_undone_as_one(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let orphans = stage.get("/pages?only=orphans&sort=attention&descending=true").await.unwrap();
    let pages: Vec<_> = orphans["rows"].as_array().unwrap().iter().take(5).map(|row| row["number"].clone()).collect();
    let wish = json!({"pages": pages, "direction": "in", "each": 3, "least_fit": 0.0});
    let (status, found) = stage.call("POST", "/openings/best", Some(wish)).await.unwrap();
    assert_eq!(status, 200, "{found}");
    let all: Vec<_> = found.as_array().unwrap().iter().flat_map(|page| page["openings"].as_array().unwrap()).collect();
    assert_eq!(found.as_array().unwrap().len(), 5);
    assert!(all.len() > 8, "{found:#}");
    let links: Vec<_> = all.iter().map(|opening| take_of(opening)["links"][0].clone()).collect();
    let (status, decided) = stage.decide(json!({"kind": "take", "links": links})).await.unwrap();
    assert_eq!((status, &decided["refused"]), (200, &json!([])), "{decided}");
    assert_eq!(decided["tray"]["links"], links.len());
    // Once more: none of them can be taken twice, and nothing is lost by trying.
    assert_eq!(stage.decide(json!({"kind": "take", "links": links})).await.unwrap().0, 409);
    let five = stage.get("/pages?only=orphans").await.unwrap()["total"].clone();
    assert_eq!(five, 4, "five of nine orphans have links to come");
    let (status, undone) = stage.turn("undo").await.unwrap();
    assert_eq!((status, &undone["decided"]["words"]), (200, &json!(format!("{} links", links.len()))));
    assert_eq!(stage.get("").await.unwrap()["tray"]["links"], 0);
    // Of many, those that can be are taken.
    let mut mixed = links[..2].to_vec();
    mixed[1]["version"] = json!("00");
    let (status, decided) = stage.decide(json!({"kind": "take", "links": mixed})).await.unwrap();
    assert_eq!((status, &decided["tray"]["links"]), (200, &json!(1)));
    assert!(decided["refused"][0]["why"].as_str().unwrap().contains("read anew"), "{decided}");
    stage.strike().await;
}

const TOO_OLD: &str = "It is older than pages that are led to may be, by the limits in Setup.";

#[sqlx::test(migrations = false)]
async fn limits_of_the_site_hold_everywhere(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let limits = |change: Value| {
        let mut limits = json!({
            "per_sentence": 2, "words_per_link": 20, "first_words_free": 0, "never_words": [], "left_out": [],
            "links_back": true,
            "follows_habits": true,
        });
        for (key, value) in change.as_object().unwrap() {
            limits[key] = value.clone();
        }
        limits
    };
    let put = async |change: Value| stage.call("PUT", "/limits", Some(limits(change))).await.unwrap().0;
    assert_eq!(put(json!({"never_words": [" Red Torch ", "", "red torch"]})).await, 204);
    assert_eq!(stage.get("/limits").await.unwrap()["limits"]["never_words"], json!(["Red Torch", "red torch"]));
    let offered = |desk: &Value| paths(&desk["openings_in"]);
    assert!(!offered(&stage.desk(TORCH).await.unwrap()).contains(&SOURCE.to_owned()));
    assert_eq!(put(json!({})).await, 204);
    assert!(offered(&stage.desk(TORCH).await.unwrap()).contains(&SOURCE.to_owned()));

    let category = stage.page("/glossary/limiting-magnitude/").await.unwrap()["category"].clone();
    assert_eq!(put(json!({"left_out": [category]})).await, 204);
    let desk = stage.desk("/glossary/limiting-magnitude/").await.unwrap();
    assert_eq!((&desk["openings_in"], &desk["openings_out"]), (&json!([]), &json!([])));
    assert_eq!(stage.page("/glossary/limiting-magnitude/").await.unwrap()["openings_in"], 0);

    // Reports tell the day of their publication, which was more than a month ago.
    let pages = stage.get("/pages").await.unwrap()["rows"].as_array().cloned().unwrap();
    let is_report = |row: &&Value| row["path"].as_str().is_some_and(|path| path.starts_with("/reports/"));
    let dated = pages.iter().filter(is_report).find(|row| row["kind"] == "post" && row["openings_in"] != 0).unwrap();
    let dated = dated["path"].as_str().unwrap();
    assert_eq!(put(json!({"oldest_months": 1200})).await, 204);
    let led_to = offered(&stage.desk(dated).await.unwrap());
    assert_ne!(led_to, [] as [String; 0]);
    assert_eq!(put(json!({"oldest_months": 1})).await, 204);
    let desk = stage.desk(dated).await.unwrap();
    assert_eq!((&desk["openings_in"], desk["nothing_in"].as_str()), (&json!([]), Some(TOO_OLD)), "{desk}");
    assert_eq!(stage.page(dated).await.unwrap()["openings_in"], 0);
    assert!(
        offered(&stage.desk(TORCH).await.unwrap()).contains(&SOURCE.to_owned()),
        "pages without a date have no age"
    );
    assert_eq!(put(json!({})).await, 204);
    assert_eq!(offered(&stage.desk(dated).await.unwrap()), led_to);

    assert_eq!(put(json!({"first_words_free": 10_000})).await, 204);
    assert_eq!(stage.desk(SOURCE).await.unwrap()["openings_out"], json!([]));
    let found = around(&stage, SOURCE, "red torch").await;
    let target = number(&stage, TORCH).await;
    let (status, problem) = stage.decide(json!({"kind": "take", "links": [by_hand(&found, &target)]})).await.unwrap();
    assert_eq!((status, problem["message"].as_str().unwrap().contains("first 10000 words")), (409, true), "{problem}");

    for wrong in [
        json!({"per_sentence": 0}),
        json!({"words_per_link": 0}),
        json!({"oldest_months": 0}),
        json!({"never_words": ["x".repeat(300)]}),
    ] {
        assert_eq!(put(wrong).await, 422);
    }
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn decisions_teach_what_is_kept_until_that_is_forgotten(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let fit = async || stage.opening(TORCH, SOURCE).await.unwrap()["fit"].as_f64().unwrap();
    let at_first = fit().await;
    let desk = stage.desk("/guides/averted-vision/").await.unwrap();
    let openings = desk["openings_in"].as_array().unwrap();
    assert!(openings.len() >= 5, "{}", openings.len());
    for opening in openings.iter().take(4) {
        assert_eq!(stage.decide(pass_of(opening, "pair")).await.unwrap().0, 200);
    }
    assert_eq!(fit().await, at_first, "four decisions are not enough");
    assert_eq!(stage.decide(pass_of(&openings[4], "pair")).await.unwrap().0, 200);
    let lower = fit().await;
    assert!(lower < at_first - 1.0, "{lower} {at_first}");
    let learnt = stage.get("/limits").await.unwrap();
    assert_eq!((&learnt["passed"], &learnt["learnt_from"]), (&json!(5), &json!(5)));
    assert!(learnt["keeps"].as_f64().unwrap() < 1.0, "{learnt}");
    let row = stage.page(TORCH).await.unwrap();
    assert!(row["best_in"].as_f64().unwrap() >= lower, "what is counted follows too");
    stage.turn("undo").await.unwrap();
    assert_eq!(fit().await, at_first, "what was undone teaches nothing");
    stage.turn("redo").await.unwrap();
    assert_eq!(fit().await, lower);
    let second = stage.second_server().await.unwrap();
    let target = number(&stage, TORCH).await;
    let address = second.address(&format!("api/sites/{}/pages/{target}/desk", stage.site.0));
    let desk: Value = strelm_e2e::stage::http().unwrap().get(address).send().await.unwrap().json().await.unwrap();
    let same = desk["openings_in"].as_array().unwrap().iter().find(|o| o["page"]["path"] == SOURCE).unwrap();
    assert_eq!(same["fit"], lower, "every process learns the same");
    second.stop().await;
    assert_eq!(stage.call("DELETE", "/lessons", None).await.unwrap().0, 204);
    assert_eq!(fit().await, at_first);
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn when_an_early_decision_is_undone_as_many_others_teach(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let turn = async |hand: u128, path: &str, what: Value| {
        let body = json!({"hand": uuid::Uuid::from_u128(hand), "key": uuid::Uuid::new_v4(), "what": what});
        assert_eq!(stage.call("POST", path, Some(body)).await.unwrap().0, 200, "{path}");
    };
    let desk = stage.desk("/guides/averted-vision/").await.unwrap();
    let openings = &desk["openings_in"].as_array().unwrap()[..6];
    // The first is taken by one, the others are passed by another.
    turn(1, "/decisions", take_of(&openings[0])).await;
    for opening in &openings[1..] {
        turn(2, "/decisions", pass_of(opening, "pair")).await;
    }
    let learnt = async || stage.get("/limits").await.unwrap();
    let before = learnt().await;
    assert_eq!((&before["taken"], &before["passed"], &before["learnt_from"]), (&json!(1), &json!(5), &json!(5)));
    turn(1, "/undo", Value::Null).await;
    let after = learnt().await;
    assert_eq!((&after["taken"], &after["passed"], &after["learnt_from"]), (&json!(0), &json!(5), &json!(5)));
    assert!(after["keeps"].as_f64().unwrap() < before["keeps"].as_f64().unwrap(), "{after} after {before}");
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn a_target_is_wanted_less_with_each_link_that_is_taken(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let found = async || {
        let desk = stage.desk(TORCH).await.unwrap();
        let openings = desk["openings_in"].as_array().unwrap().iter();
        let fit = |opening: &Value| (opening["source"].as_u64().unwrap(), opening["fit"].as_f64().unwrap());
        (desk.clone(), openings.map(fit).collect::<BTreeMap<u64, f64>>())
    };
    let (desk, at_first) = found().await;
    let mut before = at_first.clone();
    // From the fifth decision on it is also learnt what is kept.
    for opening in &desk["openings_in"].as_array().unwrap()[..4] {
        assert_eq!(stage.decide(take_of(opening)).await.unwrap().0, 200);
        let (_, now) = found().await;
        assert_eq!(now.len(), before.len() - 1);
        assert!(now.iter().all(|(source, fit)| *fit <= before[source]), "{now:?} after {before:?}");
        before = now;
    }
    assert!(before.iter().all(|(source, fit)| *fit < at_first[source] - 5.0), "{before:?} for {at_first:?}");
    for _ in 0..4 {
        stage.turn("undo").await.unwrap();
    }
    assert_eq!(found().await.1, at_first);
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn everything_says_why_and_todays_ten_are_the_best(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let today = stage.get("/today").await.unwrap();
    let best = today["openings"].as_array().unwrap();
    assert_eq!(best.len(), 10);
    let fits: Vec<_> = best.iter().map(|row| row["opening"]["fit"].as_f64().unwrap()).collect();
    assert!(fits.windows(2).all(|pair| pair[0] >= pair[1]), "{fits:?}");
    let mut ends: Vec<_> = best.iter().map(|row| row["opening"]["target"].as_u64().unwrap()).collect();
    let mut sources: Vec<_> = best.iter().map(|row| row["source"]["number"].as_u64().unwrap()).collect();
    for numbers in [&mut ends, &mut sources] {
        numbers.sort_unstable();
        numbers.dedup();
        assert_eq!(numbers.len(), 10, "no page twice");
    }
    assert!(!ends.contains(&stage.page("/").await.unwrap()["number"].as_u64().unwrap()), "all pages lead to the first");
    for row in best {
        let o = &row["opening"];
        let query = format!(
            "/openings/reasons?source={}&target={}&start={}&end={}",
            o["source"], o["target"], o["words_start"], o["words_end"]
        );
        let reasons = stage.get(&query).await.unwrap();
        let parts: Vec<_> = reasons.as_array().unwrap().iter().map(|part| part["part"].as_str().unwrap()).collect();
        assert_eq!(parts, ["topic", "wording", "place", "need", "variety"]);
        assert!(reasons.as_array().unwrap().iter().all(|part| !part["reasons"].as_array().unwrap().is_empty()));
    }
    // Pages in the order in which an hour pays most: orphans with openings come first.
    let rows = stage.get("/pages?sort=attention&descending=true&limit=5").await.unwrap();
    assert!(rows["rows"].as_array().unwrap().iter().all(|row| row["depth"].is_null() && row["openings_in"] != 0));
    // A page without words for a link has others that are about the same.
    let lonely = stage.get("/pages?ranges=openings_out:..0,words:100..").await.unwrap();
    for row in lonely["rows"].as_array().unwrap().iter().take(3) {
        let desk = stage.get(&format!("/pages/{}/desk", row["number"])).await.unwrap();
        let weak = |opening: &Value| opening["fit"].as_f64() < desk["likely"].as_f64();
        let openings = desk["openings_out"].as_array().unwrap();
        assert_eq!(desk["nothing_out"].is_string(), openings.is_empty(), "{}", row["path"]);
        assert!(openings.iter().all(weak), "what is likely is counted");
        let bridges = stage.get(&format!("/openings/bridges?page={}", row["number"])).await.unwrap();
        for bridge in bridges.as_array().unwrap() {
            assert!(!bridge["shared"].as_array().unwrap().is_empty() && bridge["source"] == row["number"]);
        }
    }
    stage.strike().await;
}
