//! The API against a real PostgreSQL, a real worker and the stand-in for the live site.

use std::time::Duration;

use serde_json::{Value, json};
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use strelm_e2e::calls::{HAND, pass_of, take_of};
use strelm_e2e::stage::{Stage, http};

#[sqlx::test(migrations = false)]
async fn pages_are_filtered_sorted_and_windowed(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let orphans = stage.get("/pages?only=orphans&sort=title").await.unwrap();
    assert_eq!(orphans["total"], 9);
    let titles: Vec<_> = orphans["rows"].as_array().unwrap().iter().map(|row| row["title"].clone()).collect();
    let expected = [
        "Airglow",
        "Averted vision",
        "Barlow lens",
        "Finderscope",
        "Limiting magnitude",
        "Meridian",
        "Occultation of Regulus",
        "Red torch",
        "Two shadows on Jupiter",
    ];
    assert_eq!(titles, expected);
    let bounded = stage.get("/pages?ranges=words:200..230,links_in:..0&sort=words").await.unwrap();
    let words: Vec<_> = bounded["rows"].as_array().unwrap().iter().map(|row| row["words"].as_u64().unwrap()).collect();
    assert!(!words.is_empty() && words.iter().all(|words| (200..=230).contains(words)), "{words:?}");
    assert!(bounded["rows"].as_array().unwrap().iter().all(|row| row["links_in"] == 0));
    assert_eq!(stage.get("/pages?ranges=depth:..1000").await.unwrap()["total"], 61, "the unreachable have no depth");
    assert_eq!(stage.get("/pages?kind=product").await.unwrap()["total"], 6);
    assert_eq!(stage.get("/pages?only=broken").await.unwrap()["total"], 7);
    assert_eq!(stage.call("GET", "/pages?ranges=words:many", None).await.unwrap().0, 422);
    let window = stage.get("/pages?sort=words&descending=true&offset=2&limit=3").await.unwrap();
    let all = stage.get("/pages?sort=words&descending=true").await.unwrap();
    assert_eq!(window["rows"].as_array().unwrap()[..], all["rows"].as_array().unwrap()[2..5]);
    assert_eq!(stage.get("/pages?text=OBSERVING+occultation").await.unwrap()["total"], 1);
    let (status, _) = stage.call("GET", "/pages?sort=nonsense", None).await.unwrap();
    assert_eq!(status, 400);
    let regulus = stage.page("/reports/occultation-of-regulus/").await.unwrap();
    assert_eq!((&regulus["kind"], &regulus["category"]), (&json!("post"), &json!("Observing reports")));
    assert_eq!(stage.page("/tag/moon/").await.unwrap()["kind"], "term_archive");
    assert_eq!(stage.page("/shop/planisphere/").await.unwrap()["kind"], "product");
    assert_eq!(stage.page("/reports/").await.unwrap()["kind"], "collection");
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn taking_passing_and_dropping_change_every_count_at_once(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let (target, source) = ("/guides/red-torch/", "/guides/dark-adaptation/");
    let opening = stage.opening(target, source).await.unwrap();
    let taken = stage.take(target, source).await.unwrap();
    assert_eq!(taken["tray"], json!({"links": 1, "pages": 1, "warnings": 0, "handed_over": 0}));
    let row = stage.page(target).await.unwrap();
    assert_eq!((&row["links_in"], &row["planned_in"], &row["depth"]), (&json!(1), &json!(1), &json!(2)));
    assert_eq!(stage.get("").await.unwrap()["orphans"], 8);
    let (status, problem) = stage.decide(take_of(&opening)).await.unwrap();
    assert_eq!(status, 409, "{problem}");
    let change = stage.get("/tray").await.unwrap()[0]["links"][0]["change"].clone();
    let (status, _) = stage.decide(json!({"kind": "drop", "changes": [change]})).await.unwrap();
    assert_eq!(status, 200);
    assert_eq!(stage.page(target).await.unwrap()["depth"], Value::Null);
    let (status, problem) = stage.decide(json!({"kind": "drop", "changes": [change]})).await.unwrap();
    assert_eq!((status, problem["message"].as_str().unwrap().contains("not in the tray")), (409, true));

    let pair = pass_of(&opening, "pair");
    assert_eq!(stage.decide(pair.clone()).await.unwrap().0, 200);
    assert_eq!(stage.decide(pair).await.unwrap().0, 409, "it was passed already");
    let after = stage.desk(target).await.unwrap();
    assert!(after["openings_in"].as_array().unwrap().iter().all(|o| o["page"]["path"] != source));
    assert_eq!(after["passed"][0]["anchor"], "red torch");
    let back = json!({"kind": "bring_back", "passed": after["passed"][0]["passed"]});
    assert_eq!(stage.decide(back).await.unwrap().0, 200);
    stage.opening(target, source).await.unwrap();

    // Backwards and forwards again.
    for (how, kind) in [("undo", "bring_back"), ("undo", "pass"), ("undo", "drop"), ("undo", "take"), ("redo", "take")]
    {
        let (status, turned) = stage.turn(how).await.unwrap();
        assert_eq!((status, &turned["decided"]["kind"]), (200, &json!(kind)), "{turned}");
    }
    assert_eq!(stage.get("").await.unwrap()["tray"]["links"], 1);
    let everything = [("redo", "drop"), ("redo", "pass"), ("redo", "bring_back"), ("redo", "")];
    for (how, kind) in everything {
        let (status, turned) = stage.turn(how).await.unwrap();
        let done = turned["decided"]["kind"].as_str().unwrap_or_default();
        assert_eq!((status, done), (200, kind), "{turned}");
    }
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn a_decision_whose_answer_was_lost_is_made_once(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let opening = stage.opening("/guides/red-torch/", "/guides/dark-adaptation/").await.unwrap();
    let body = json!({"hand": HAND, "key": uuid::Uuid::new_v4(), "what": take_of(&opening)});
    for _ in 0..3 {
        let (status, decided) = stage.call("POST", "/decisions", Some(body.clone())).await.unwrap();
        assert_eq!((status, &decided["words"]), (200, &json!("red torch")), "{decided}");
    }
    assert_eq!(stage.get("").await.unwrap()["tray"]["links"], 1);
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn limits_keep_a_sentence_readable(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let crowded = "<p>Averted vision and a red torch and a Barlow lens meet.</p>";
    stage.change_live_page("/guides/collimation/", crowded).await.unwrap();
    stage.read_again().await.unwrap();
    let desk = stage.desk("/guides/collimation/").await.unwrap();
    let offered = desk["openings_out"].as_array().unwrap();
    assert_eq!(offered.len(), 2, "no more is offered than the sentence may carry: {offered:?}");
    for opening in offered {
        assert_eq!(stage.decide(take_of(opening)).await.unwrap().0, 200);
    }
    // The third name of the sentence is taken by hand.
    let path = format!("/openings/around?source={}&anchor=moorland&before=&after=", desk["page"]["number"]);
    let (status, problem) = stage.call("GET", &path, None).await.unwrap();
    assert_eq!(status, 409, "{problem}");
    let mut refused = Vec::new();
    for words in ["Averted vision", "red torch", "Barlow lens"] {
        let path = format!("/openings/around?source={}&anchor={words}", desk["page"]["number"]).replace(' ', "%20");
        let around = stage.get(&path).await.unwrap();
        let target = &around["targets"][0]["page"]["number"];
        let by_hand = json!({"kind": "take", "links": [{
            "source": around["source"], "target": target, "words_start": around["words_start"],
            "words_end": around["words_end"], "version": around["version"], "by_hand": true,
        }]});
        let (status, body) = stage.decide(by_hand).await.unwrap();
        if status != 200 && around["refusal"].is_null() {
            refused.push(body["message"].as_str().unwrap().to_owned());
        }
    }
    assert_eq!(refused.len(), 1, "{refused:?}");
    assert!(refused[0].contains("the sentence would carry 3 links"), "{refused:?}");
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn only_what_was_found_on_the_version_that_was_seen_can_be_taken(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let opening = stage.opening("/guides/red-torch/", "/guides/dark-adaptation/").await.unwrap();
    for (key, value) in [("version", json!("00")), ("words_end", json!(opening["words_end"].as_u64().unwrap() + 1))] {
        let mut wrong = take_of(&opening);
        wrong["links"][0][key] = value;
        let (status, problem) = stage.decide(wrong).await.unwrap();
        assert_eq!(status, 409, "{problem}");
    }
    let mut wrong = take_of(&opening);
    wrong["links"][0]["target"] = json!(9999);
    assert_eq!(stage.decide(wrong).await.unwrap().0, 404);
    assert_eq!(stage.get("/tray").await.unwrap(), json!([]));
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn another_server_on_the_same_database_agrees(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let second = stage.second_server().await.unwrap();
    let address = second.address(&format!("api/sites/{}", stage.site.0));
    let client = http().unwrap();
    let orphans = || async {
        let status: Value = client.get(&address).send().await.unwrap().json().await.unwrap();
        status["orphans"].clone()
    };
    assert_eq!(orphans().await, 9);
    stage.take("/guides/red-torch/", "/guides/dark-adaptation/").await.unwrap();
    assert_eq!(orphans().await, 8);
    second.stop().await;
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn a_release_changes_markup_only_and_comes_back_whole(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let source = "/guides/dark-adaptation/";
    let targets = ["/guides/red-torch/", "/guides/averted-vision/", "/glossary/limiting-magnitude/"];
    for target in targets {
        stage.take(target, source).await.unwrap();
    }
    let before = stage.live_source(source).await.unwrap();
    assert_eq!(stage.call("POST", "/releases", None).await.unwrap().0, 200);
    let release = stage.release_in(&["out", "taken_back"]).await.unwrap();
    assert_eq!((&release["links"], &release["pages"][0]["phase"]), (&json!(3), &json!("out")));
    let after = stage.live_source(source).await.unwrap();
    let text = |html: &str| strelm_core::document::Document::from_html(html).text().as_str().to_owned();
    assert_eq!(text(&after), text(&before));
    for target in targets {
        assert_eq!(after.matches(&format!("<a href=\"{target}\">")).count(), 1);
        let row = stage.page(target).await.unwrap();
        assert_eq!((&row["links_in"], &row["planned_in"], &row["depth"]), (&json!(1), &json!(0), &json!(2)));
    }
    let (status, _) = stage.call("POST", "/releases", None).await.unwrap();
    assert_eq!(status, 409, "an empty tray is not released");
    let back = format!("/releases/{}/take-back", release["release"]);
    assert_eq!(stage.call("POST", &back, None).await.unwrap().0, 202);
    while stage.release_in(&["out", "taken_back"]).await.unwrap()["phase"] != "taken_back" {
        tokio::time::sleep(Duration::from_millis(25)).await;
    }
    assert_eq!(stage.live_source(source).await.unwrap(), before);
    assert_eq!(stage.get("").await.unwrap()["orphans"], 9);
    assert_eq!(stage.call("POST", &back, None).await.unwrap().0, 409, "it is taken back once");
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn requests_from_elsewhere_are_refused_and_pages_load_from_here_only(
    _: PgPoolOptions,
    options: PgConnectOptions,
) {
    let stage = Stage::read_in(options).await.unwrap();
    let client = http().unwrap();
    let readings = stage.address(&format!("api/sites/{}/readings", stage.site.0));
    let foreign = client.post(&readings).header("origin", "http://evil.example").send().await.unwrap();
    assert_eq!(foreign.status(), 403);
    let rebound = client.get(stage.address("api/sites")).header("host", "evil.example").send().await.unwrap();
    assert_eq!(rebound.status(), 403);
    for (host, status) in [
        ("[::1]", 200),
        ("[::1]:4870", 200),
        ("LocalHost", 200),
        ("127.0.0.1:80", 200),
        ("[::1].evil.example", 403),
        ("127.0.0.1.evil.example", 403),
        ("evil.example:127.0.0.1", 403),
        ("[::2]", 403),
    ] {
        let answer = client.get(stage.address("api/sites")).header("host", host).send().await.unwrap();
        assert_eq!(answer.status(), status, "{host}");
    }
    let own = client.get(stage.address("api/sites")).send().await.unwrap();
    let policy = own.headers()["content-security-policy"].to_str().unwrap().to_owned();
    assert!(policy.starts_with("default-src 'none'; script-src 'self';"), "{policy}");

    let number = stage.page("/guides/collimation/").await.unwrap()["number"].clone();
    let html = stage.get(&format!("/pages/{number}/desk")).await.unwrap()["html"].as_str().unwrap().to_owned();
    let picture = html.split("src=\"").nth(1).unwrap().split('"').next().unwrap().replace("&amp;", "&");
    let shown = client.get(stage.address(picture.trim_start_matches('/'))).send().await.unwrap();
    assert_eq!((shown.status().as_u16(), &shown.headers()["content-type"]), (200, &"image/svg+xml".parse().unwrap()));
    assert!(shown.headers()["content-security-policy"].to_str().unwrap().contains("sandbox"));
    // Of other sites nobody asks; what is not there is a quiet frame, for a page may show what it likes.
    let missing = format!("{}missing.png", stage.live.entry());
    for address in ["http://169.254.169.254/", "http://127.0.0.1:1/x.svg", missing.as_str()] {
        let path = format!("api/sites/{}/pictures?address={address}", stage.site.0);
        let answer = client.get(stage.address(&path)).send().await.unwrap();
        assert_eq!((answer.status().as_u16(), &answer.headers()["x-picture"]), (200, &"missing".parse().unwrap()));
        assert!(answer.text().await.unwrap().starts_with("<svg"), "{address}");
    }
    assert_eq!(stage.call("GET", "/pictures?address=file:///etc/passwd", None).await.unwrap().0, 404);
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn the_journal_is_told_to_whoever_listens(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let client = http().unwrap();
    let events = stage.address(&format!("api/sites/{}/events", stage.site.0));
    let mut answer = client.get(events).send().await.unwrap();
    let mut seen = String::new();
    let mut read = async |until: &dyn Fn(&str) -> bool| {
        while !until(&seen) {
            let chunk = tokio::time::timeout(Duration::from_secs(5), answer.chunk()).await.unwrap().unwrap().unwrap();
            seen.push_str(std::str::from_utf8(&chunk).unwrap());
        }
        seen.clone()
    };
    let told = |text: &str| {
        let line = text.lines().filter_map(|line| line.strip_prefix("data: ")).next_back()?;
        let (seq, kind) = line.split_once(' ').unwrap_or((line, ""));
        Some((seq.parse::<i64>().ok()?, kind.to_owned()))
    };
    let (begin, kind) = told(&read(&|text| text.contains("data: ")).await).unwrap();
    assert_eq!(kind, "", "the first only says where the journal stands");
    stage.take("/guides/red-torch/", "/guides/dark-adaptation/").await.unwrap();
    read(&|text| told(text) == Some((begin + 1, "taken".to_owned()))).await;
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn what_is_not_there_is_said_in_words(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    for path in ["/pages/9999/desk", "/pages/0/desk"] {
        let (status, problem) = stage.call("GET", path, None).await.unwrap();
        assert_eq!((status, problem["message"].is_string()), (404, true), "{path}");
    }
    let client = http().unwrap();
    let unknown = client.get(stage.address("api/sites/77/pages")).send().await.unwrap();
    assert_eq!(unknown.status(), 404);
    let (status, problem) = stage.call("POST", "/readings", None).await.unwrap();
    assert_eq!(status, 202, "{problem}");
    let (status, problem) = stage.call("POST", "/readings", None).await.unwrap();
    if status != 202 {
        assert!(problem["message"].as_str().unwrap().contains("under way"));
    }
    stage.wait_for_reading().await.unwrap();
    assert_eq!(stage.get("/pages").await.unwrap()["total"], 73, "reading again changes no numbers");
    stage.strike().await;
}
