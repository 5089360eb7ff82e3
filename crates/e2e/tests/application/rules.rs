//! Auto-linking rules: what they find is what is linked, limits and passes hold, and a rule is made by keyboard and seen live.

use fantoccini::Locator;
use fantoccini::key::Key;
use serde_json::{Value, json};
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use strelm_e2e::browser::Browser;
use strelm_e2e::stage::{Stage, http};

/// The lines with which places are answered.
async fn places(stage: &Stage, wish: Value) -> Vec<Value> {
    let address = stage.address(&format!("api/sites/{}/rules/places", stage.site.0));
    let answer = http().unwrap().post(address).json(&wish).send().await.unwrap();
    assert_eq!(answer.status(), 200, "{wish}");
    let text = answer.text().await.unwrap();
    text.lines().map(|line| serde_json::from_str(line).unwrap()).collect()
}

/// Places of a state, each with its page.
fn in_state<'l>(lines: &'l [Value], state: &str) -> Vec<(&'l Value, &'l Value)> {
    let pages = lines.iter().filter(|line| line["kind"] == "pages").flat_map(|line| line["pages"].as_array().unwrap());
    let all = pages.flat_map(|page| page["places"].as_array().unwrap().iter().map(move |place| (page, place)));
    all.filter(|(_, place)| place["state"] == state).collect()
}

fn counts(lines: &[Value]) -> &Value {
    &lines.last().unwrap()["counts"]
}

async fn make(stage: &Stage, rules: Value) -> Vec<u64> {
    let (status, made) = stage.call("POST", "/rules", Some(rules)).await.unwrap();
    assert_eq!(status, 200, "{made}");
    made["numbers"].as_array().unwrap().iter().map(|number| number.as_u64().unwrap()).collect()
}

fn take((page, place): (&Value, &Value)) -> Value {
    json!({
        "source": page["page"]["number"], "target": place["target"], "words_start": place["words_start"], "words_end": place["words_end"],
        "version": page["version"], "rule": place["rule"]
    })
}

#[sqlx::test(migrations = false)]
async fn what_a_rule_finds_goes_out_once_and_what_is_passed_or_limited_does_not(
    _: PgPoolOptions,
    options: PgConnectOptions,
) {
    let stage = Stage::read_in_whole(options).await.unwrap();
    let other = stage.page("/guides/dark-adaptation/").await.unwrap()["number"].clone();
    let averted = stage.page("/guides/averted-vision/").await.unwrap()["number"].clone();
    let draft = json!({ "phrases": ["averted vision"], "target": averted, "title": "How to look beside it" });

    // The words with which authors lead to a page are phrases that could lead there.
    let hops = stage.page("/guides/star-hopping/").await.unwrap()["number"].clone();
    let (status, proposed) = stage.call("POST", "/rules/propose", Some(json!({ "pages": [hops] }))).await.unwrap();
    let phrases = proposed[0]["phrases"].as_array().unwrap();
    let in_use = phrases.iter().find(|phrase| phrase["text"] == "first of the three hops").unwrap();
    assert_eq!((status, &in_use["from"], phrases.len() <= 5), (200, &json!("the words of links on one page"), true));
    let looked = places(&stage, json!({ "draft": draft })).await;
    let wanted = counts(&looked)["wanted"].as_u64().unwrap();
    assert!(wanted >= 5, "{looked:#?}");

    // What is tried is what is made; and another rule that wants the same words gets none of them, and knows whose they are.
    let rule = make(&stage, json!([draft])).await[0];
    assert_eq!(counts(&places(&stage, json!({ "rules": [rule] })).await), counts(&looked));
    let rival = json!({ "phrases": ["vision"], "target": other });
    let of_rival = places(&stage, json!({ "draft": rival })).await;
    assert_eq!(of_rival.last().unwrap()["rivals"][0]["rule"], rule, "{of_rival:#?}");

    // One place is passed, another is left; all others are taken, with what the rule says.
    let lines = places(&stage, json!({ "rules": [rule] })).await;
    let all = in_state(&lines, "wanted");
    let exception = json!({ "rule": rule, "page": all[0].0["page"]["number"], "spot": all[0].1["spot"] });
    let passing = json!({ "places": [exception], "are_passed": true });
    assert_eq!(stage.call("POST", "/rules/exceptions", Some(passing)).await.unwrap().0, 204);
    let lines = places(&stage, json!({ "rules": [rule] })).await;
    let held = in_state(&lines, "held");
    assert!(held.iter().any(|(_, place)| place["why"] == "an editor passed it here"), "{held:#?}");
    let links: Vec<_> = in_state(&lines, "wanted").into_iter().map(take).collect();
    assert!(links.len() + 1 >= wanted as usize);
    let (status, told) = stage.decide(json!({ "kind": "take", "links": links })).await.unwrap();
    assert_eq!((status, told["refused"].as_array().map(Vec::len)), (200, Some(0)), "{told}");
    let lines = places(&stage, json!({ "rules": [rule] })).await;
    assert_eq!(counts(&lines)["planned"].as_u64().unwrap(), links.len() as u64);
    assert!(in_state(&lines, "wanted").is_empty(), "{lines:#?}");

    // Out, read again: they are there, and nothing is linked twice.
    stage.release().await.unwrap();
    let source = stage.live_source(all[1].0["page"]["path"].as_str().unwrap()).await.unwrap();
    assert!(source.contains("title=\"How to look beside it\""), "{source}");
    stage.read_again().await.unwrap();
    let lines = places(&stage, json!({ "rules": [rule] })).await;
    assert_eq!(counts(&lines)["there"].as_u64().unwrap(), links.len() as u64, "{lines:#?}");
    assert!(in_state(&lines, "wanted").is_empty());
    let listed = stage.get("/rules").await.unwrap();
    assert_eq!(listed["rules"][0]["rule"]["title"], "How to look beside it");

    // The Desk names the rule. To pass one of its links there takes that one off, and no other.
    let page = all[1].0["page"].clone();
    let desk = stage.desk(page["path"].as_str().unwrap()).await.unwrap();
    let row = desk["links_out"].as_array().unwrap().iter().find(|row| !row["rule"].is_null()).unwrap().clone();
    assert_eq!((&row["rule"]["number"], &row["rule"]["phrase"]), (&json!(rule), &json!("averted vision")));
    let passing = json!({ "places": [{ "rule": rule, "page": page["number"], "spot": row["rule"]["spot"] }], "are_passed": true });
    assert_eq!(stage.call("POST", "/rules/exceptions", Some(passing)).await.unwrap().0, 204);
    let (status, told) = stage.decide(json!({ "kind": "follow_rules", "rules": [rule] })).await.unwrap();
    assert_eq!((status, &told["tray"]["links"]), (200, &json!(1)), "{told}");

    // It leads elsewhere: its other links follow, at once with the one that is taken off.
    let mut changed = draft.clone();
    (changed["target"], changed["title"]) = (other.clone(), json!(null));
    assert_eq!(stage.call("PUT", &format!("/rules/{rule}"), Some(changed)).await.unwrap().0, 204);
    assert_eq!(stage.get("/rules").await.unwrap()["rules"][0]["outdated"].as_u64().unwrap(), links.len() as u64 - 1);
    let (status, told) = stage.decide(json!({ "kind": "follow_rules", "rules": [rule] })).await.unwrap();
    assert_eq!(status, 200, "{told}");
    assert_eq!((&told["tray"]["links"], &told["refused"]), (&json!(links.len()), &json!([])), "{told}");
    stage.release().await.unwrap();
    let source = stage.live_source(page["path"].as_str().unwrap()).await.unwrap();
    assert!(!source.contains("How to look beside it") && source.contains("averted vision"), "{source}");
    let next = stage.live_source(all[2].0["page"]["path"].as_str().unwrap()).await.unwrap();
    assert!(next.contains(">averted vision</a>") && !next.contains("How to look beside it"), "{next}");
    assert_eq!(stage.get("/rules").await.unwrap()["rules"][0]["outdated"], 0);
    let (status, told) = stage.decide(json!({ "kind": "follow_rules", "rules": [rule] })).await.unwrap();
    assert_eq!(status, 409, "there is nothing left to follow: {told}");

    // Switched off it finds nothing by itself; removed and brought back it is as it was.
    for (to, rules) in [("off", 1), ("on", 1), ("removed", 0), ("brought_back", 1)] {
        let (status, switched) =
            stage.call("POST", "/rules/switch", Some(json!({ "rules": [rule], "to": to }))).await.unwrap();
        assert_eq!((status, &switched["rules"]), (200, &json!([rule])), "{to}");
        assert_eq!(stage.get("/rules").await.unwrap()["rules"].as_array().unwrap().len(), rules, "{to}");
    }
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn the_names_of_tags_lead_to_their_archives(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in_whole(options).await.unwrap();
    let browser = Browser::start().await.unwrap();
    browser.client.goto(&stage.address(&format!("{}/rules/new", stage.site.0))).await.unwrap();
    browser.wait_for("label", "The names of categories and tags").await.unwrap().click().await.unwrap();
    browser.wait_for("[data-testid=rule-in-words]", "the name of each category and tag to its archive").await.unwrap();
    browser.wait_for("[data-testid=place]", "→").await.unwrap();
    let which = browser.client.find(Locator::Css("form select")).await.unwrap();
    which.select_by_value("/tag/").await.unwrap();
    browser.wait_for("[data-testid=rule-in-words]", "the name of each term in /tag/").await.unwrap();
    browser.wait_for("label", "each only on pages that carry it").await.unwrap().click().await.unwrap();
    browser.wait_for("[data-testid=rule-in-words]", "only on pages that carry it").await.unwrap();
    assert_eq!(browser.axe().await.unwrap(), [] as [String; 0]);
    browser.wait_for("button", "Make the rule").await.unwrap().click().await.unwrap();
    browser.wait_for("h1", "The rule").await.unwrap();
    browser.wait_until_gone("[aria-label=Places] [role=status]", "Looking").await.unwrap();
    browser.wait_for("[aria-label=Places] footer button", "Take").await.unwrap().click().await.unwrap();
    browser.wait_for("section[aria-label=Tray] button:not([disabled])", "Review and release").await.unwrap();
    assert_eq!(browser.complaints().await.unwrap(), [] as [String; 0]);
    browser.end().await.unwrap();

    // Each leads to the archive of a tag that the page carries, and the Desk says by which name.
    let rule = stage.get("/rules").await.unwrap()["rules"][0].clone();
    let lines = places(&stage, json!({ "rules": [rule["number"]] })).await;
    let links = in_state(&lines, "planned");
    assert!(links.len() >= 3, "{lines:#?}");
    let archives = stage.get("/pages?kind=term_archive&limit=100").await.unwrap();
    let path_of = |number: &Value| {
        let rows = archives["rows"].as_array().unwrap();
        rows.iter().find(|row| row["number"] == *number).map(|row| row["path"].as_str().unwrap().to_owned())
    };
    stage.release().await.unwrap();
    for (page, place) in &links {
        let archive = path_of(&place["target"]).unwrap();
        assert!(archive.starts_with("/tag/"), "{archive}");
        let source = stage.live_source(page["page"]["path"].as_str().unwrap()).await.unwrap();
        assert!(source.contains(&format!("<a href=\"{archive}\">")), "{archive} in {source}");
    }
    stage.read_again().await.unwrap();
    let lines = places(&stage, json!({ "rules": [rule["number"]] })).await;
    assert_eq!(in_state(&lines, "there").len(), links.len());
    let desk = stage.desk(links[0].0["page"]["path"].as_str().unwrap()).await.unwrap();
    let named =
        desk["links_out"].as_array().unwrap().iter().find(|row| !row["rule"].is_null()).unwrap()["rule"].clone();
    assert!(named["phrase"].is_string(), "{desk}");

    // What fewer pages carry is linked no more: those links are taken off, and the others stay.
    let mut changed = rule["rule"].clone();
    changed["terms"]["least_pages"] = json!(10);
    let address = format!("/rules/{}", rule["number"]);
    assert_eq!(stage.call("PUT", &address, Some(changed.clone())).await.unwrap().0, 204);
    let lines = places(&stage, json!({ "rules": [rule["number"]] })).await;
    let left = in_state(&lines, "there").len();
    let row = stage.get("/rules").await.unwrap()["rules"][0].clone();
    assert!(0 < left && left < links.len(), "{left} of {}", links.len());
    assert_eq!(row["outdated"], json!(links.len() - left));
    let (status, told) = stage.decide(json!({ "kind": "follow_rules", "rules": [rule["number"]] })).await.unwrap();
    assert_eq!((status, &told["tray"]["links"]), (200, &json!(links.len() - left)), "{told}");
    stage.release().await.unwrap();
    assert_eq!(stage.get("/rules").await.unwrap()["rules"][0]["outdated"], 0);

    // A taxonomy that is no folder is none; one that nothing is in is none of the site.
    for (taxonomy, expected) in [("tags", 422), ("/topics/", 204)] {
        changed["terms"]["taxonomy"] = json!(taxonomy);
        let (status, told) = stage.call("PUT", &address, Some(changed.clone())).await.unwrap();
        assert_eq!(status, expected, "{told}");
    }
    assert_eq!(stage.get("/rules").await.unwrap()["rules"][0]["leads"]["terms"], 0);
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn what_is_no_rule_is_said_in_words(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let page = stage.page("/guides/dark-adaptation/").await.unwrap()["number"].clone();
    for (rule, says) in [
        (json!({ "phrases": [" "], "target": page }), "Say which words"),
        (json!({ "phrases": ["…"], "target": page }), "no words in"),
        (json!({ "phrases": ["(M"], "expressions": true, "target": page }), "cannot be read"),
        (json!({ "phrases": ["moon"], "target": 99_999 }), "no such page"),
        (json!({ "phrases": ["moon"], "target": page, "share": 1.5 }), "share"),
        (json!({ "phrases": ["moon"], "target": page, "per_page": 0 }), "1 to 1000 links"),
        (json!({ "phrases": ["moon"], "target": page, "tracking": ["x"] }), "name=value"),
        (json!({ "phrases": ["moon"], "target": { "kind": "outside", "address": "nowhere" } }), ""),
    ] {
        let (status, problem) = stage.call("POST", "/rules", Some(json!([rule]))).await.unwrap();
        assert!([404, 422].contains(&status), "{rule}: {status} {problem}");
        assert!(problem["message"].as_str().unwrap().contains(says), "{rule}: {problem}");
    }
    assert_eq!(stage.get("/rules").await.unwrap()["rules"], json!([]));
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn a_rule_is_made_by_keyboard_seen_live_taken_and_removed(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in_whole(options).await.unwrap();
    let browser = Browser::start().await.unwrap();
    let type_here = async |keys: &str| browser.client.active_element().await.unwrap().send_keys(keys).await.unwrap();
    browser.client.goto(&stage.address(&format!("{}/today", stage.site.0))).await.unwrap();
    browser.wait_for("h1", "Today").await.unwrap();
    browser.press("g").await.unwrap();
    browser.press("l").await.unwrap();
    browser.wait_for("h1", "Rules").await.unwrap();
    browser.wait_for("main h2", "Words that link themselves").await.unwrap();
    browser.press("n").await.unwrap();
    browser.wait_for("h1", "A new rule").await.unwrap();

    // The phrase, and by Tab over the four boxes to where it leads.
    type_here("averted vision").await;
    type_here(&Key::Tab.to_string().repeat(5)).await;
    type_here("averted vision").await;
    browser.wait_for("[role=option]", "Averted vision").await.unwrap();
    type_here(&Key::Enter.to_string()).await;
    browser
        .wait_for("[data-testid=rule-in-words]", "Link averted vision to Averted vision, at most once a page.")
        .await
        .unwrap();
    browser.wait_for("[data-testid=place]", "averted vision").await.unwrap();
    let before = browser.client.find_all(Locator::Css("[data-testid=place]")).await.unwrap().len();
    assert!(before >= 5, "{before}");

    // Another limit is seen at once, too.
    let where_to = browser.wait_for("summary", "Where").await.unwrap();
    where_to.click().await.unwrap();
    browser.wait_for("label", "Technique").await.unwrap().click().await.unwrap();
    browser.wait_for("[data-testid=rule-in-words]", "only in Technique").await.unwrap();
    browser.wait_until_gone("[aria-label=Places] [role=status]", "Looking").await.unwrap();
    let in_category = browser.client.find_all(Locator::Css("[data-testid=place]")).await.unwrap().len();
    assert!(0 < in_category && in_category < before, "{in_category} of {before}");
    browser.wait_for("button", "Make the rule").await.unwrap().click().await.unwrap();
    browser.wait_for("h1", "The rule").await.unwrap();

    // One place is left out, the others are taken, and undone by one key.
    browser.wait_for("[data-testid=place] input", "").await.unwrap().click().await.unwrap();
    let label = match in_category - 1 {
        1 => "Take the link".to_owned(),
        links => format!("Take {links} links"),
    };
    browser.wait_for("button", &label).await.unwrap().click().await.unwrap();
    browser.wait_for("section[aria-label=Tray]", &(in_category - 1).to_string()).await.unwrap();
    browser.wait_for("button", "Linked").await.unwrap().click().await.unwrap();
    browser.wait_for("[data-testid=place]", "in the tray").await.unwrap();
    browser.press("u").await.unwrap();
    browser.wait_for("section[aria-label=Tray]", "Nothing taken").await.unwrap();
    assert_eq!(browser.axe().await.unwrap(), [] as [String; 0]);

    // Removed, and brought back from the notice.
    browser.wait_for("button", "Remove").await.unwrap().click().await.unwrap();
    browser.wait_for("main h2", "Words that link themselves").await.unwrap();
    browser.wait_for("[role=status] button", "Undo").await.unwrap().click().await.unwrap();
    browser.wait_for("main tbody a", "averted vision").await.unwrap();
    browser.wait_for("main tbody td", "only in Technique").await.unwrap();
    assert_eq!(browser.axe().await.unwrap(), [] as [String; 0]);
    assert_eq!(browser.complaints().await.unwrap(), [] as [String; 0]);
    browser.end().await.unwrap();
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn sixty_rules_of_a_table_are_looked_at_before_they_are_made(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in_whole(options).await.unwrap();
    make(&stage, json!([{ "phrases": ["Averted Vision"], "target": stage.page("/guides/averted-vision/").await.unwrap()["number"] }]))
        .await;
    let good = |at: usize| format!("star number {at};/guides/averted-vision/;{}\n", at % 3 + 1);
    let faulty = [
        "…;/guides/averted-vision/;1\n",
        "moon;;1\n",
        ";/guides/averted-vision/;1\n",
        "sun;/nowhere/;1\n",
        "mars;/guides/averted-vision/;x\n",
    ];
    let rows: String = (0..54).map(good).chain(faulty.map(str::to_owned)).collect();
    let table = format!("Keyword;Page;How often\n{rows}averted vision;/guides/averted-vision/;1\n");
    let file = stage.folder("table").unwrap().join("rules.csv");
    std::fs::write(&file, table).unwrap();

    let browser = Browser::start().await.unwrap();
    browser.client.goto(&stage.address(&format!("{}/rules", stage.site.0))).await.unwrap();
    browser.wait_for("main a", "From a table").await.unwrap().click().await.unwrap();
    browser.wait_for("h1", "From a table").await.unwrap();
    let field = browser.client.find(Locator::Css("input[type=file]")).await.unwrap();
    field.send_keys(&file.to_string_lossy()).await.unwrap();
    browser.wait_for("[role=status]", "56 rows are rules, 4 are none").await.unwrap();
    // A column whose name says nothing is told what it is: one more of its rows is none.
    let column = browser.client.find(Locator::Css("select[aria-label='What “How often” is']")).await.unwrap();
    column.select_by_value("per page").await.unwrap();
    browser.wait_for("[role=status]", "55 rows are rules, 5 are none").await.unwrap();
    browser.wait_for("section[aria-label='Rows that are no rules'] li", "“/nowhere/” is no page here").await.unwrap();
    // What is a rule already is left out by itself; one more is left out by hand.
    browser.wait_for("button", "Make 54 rules").await.unwrap();
    browser.wait_for("ul[aria-label=Rows] label", "star number 0").await.unwrap().click().await.unwrap();
    assert_eq!(browser.axe().await.unwrap(), [] as [String; 0]);
    browser.wait_for("button", "Make 53 rules").await.unwrap().click().await.unwrap();
    browser.wait_for("[role=status]", "54 rules").await.unwrap();
    let listed = stage.get("/rules").await.unwrap();
    let of_two = listed["rules"]
        .as_array()
        .unwrap()
        .iter()
        .find(|row| row["rule"]["phrases"][0] == "star number 1")
        .unwrap()
        .clone();
    assert_eq!(of_two["rule"]["per_page"], 2);

    // What is exported is read in as it was.
    let exported = http().unwrap().get(stage.address(&format!("api/sites/{}/rules/export?format=xlsx", stage.site.0)));
    let bytes = exported.send().await.unwrap().bytes().await.unwrap();
    let again = http().unwrap().post(stage.address(&format!("api/sites/{}/rules/table", stage.site.0)));
    let again = again.header("content-type", "application/octet-stream").body(bytes).send().await.unwrap();
    let read: Value = again.json().await.unwrap();
    let rows = read["rows"].as_array().unwrap();
    assert!(rows.len() == 54 && rows.iter().all(|row| !row["double_of"].is_null()), "{read}");
    assert_eq!(read["faults"], json!([]));
    assert_eq!(browser.complaints().await.unwrap(), [] as [String; 0]);
    browser.end().await.unwrap();
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn phrases_for_orphans_become_rules_whose_links_bring_them_back(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in_whole(options).await.unwrap();
    let orphans = stage.get("/pages?only=orphans&limit=10").await.unwrap();
    let numbers: Vec<_> = orphans["rows"].as_array().unwrap().iter().map(|row| row["number"].to_string()).collect();
    let before = orphans["total"].as_u64().unwrap();
    let browser = Browser::start().await.unwrap();
    let view = format!("{}/rules/phrases?pages={}", stage.site.0, numbers.join(","));
    browser.client.goto(&stage.address(&view)).await.unwrap();
    browser.wait_for("h1", "Phrases for the chosen pages").await.unwrap();
    browser.wait_for("tbody th", "").await.unwrap();
    assert_eq!(browser.client.find_all(Locator::Css("tbody tr")).await.unwrap().len(), 10);
    assert_eq!(browser.axe().await.unwrap(), [] as [String; 0]);

    // By keys: down a row, and what stood above filled in and taken out again.
    let first = browser.wait_for("[data-cell='0-4']", "").await.unwrap();
    first.click().await.unwrap();
    let type_here = async |keys: &str| browser.client.active_element().await.unwrap().send_keys(keys).await.unwrap();
    type_here(&format!("nowhere to be found{}", char::from(Key::Enter))).await;
    type_here(&format!("{}d{}", char::from(Key::Control), char::from(Key::Null))).await;
    let below = browser.client.find(Locator::Css("[data-cell='1-4']")).await.unwrap();
    assert_eq!(below.prop("value").await.unwrap().as_deref(), Some("nowhere to be found"));
    browser.wait_for("footer a", "Save as CSV").await.unwrap();
    browser.wait_for("footer button", "Make").await.unwrap().click().await.unwrap();
    browser.wait_for("h1", "Places of").await.unwrap();
    browser.wait_for("[data-testid=place]", "").await.unwrap();
    browser.wait_until_gone("[aria-label=Places] [role=status]", "Looking").await.unwrap();
    browser.wait_for("[aria-label=Places] footer button", "Take").await.unwrap().click().await.unwrap();
    browser.wait_for("section[aria-label=Tray] button:not([disabled])", "Review and release").await.unwrap();
    let after = stage.get("/pages?only=orphans&limit=1").await.unwrap()["total"].as_u64().unwrap();
    assert!(after + 3 <= before, "{after} of {before} orphans are left");
    assert_eq!(browser.complaints().await.unwrap(), [] as [String; 0]);
    browser.end().await.unwrap();
    stage.strike().await;
}
