//! For whoever runs Strelm: health, figures, logs, settings, backups, ending in good order.

use std::io::{BufRead, BufReader};
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

use sqlx::Connection;
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use strelm_e2e::stage::{Stage, TOKEN, http};

async fn text(stage: &Stage, path: &str) -> (u16, String) {
    let answer = http().unwrap().get(stage.address(path)).send().await.unwrap();
    (answer.status().as_u16(), answer.text().await.unwrap())
}

#[sqlx::test(migrations = false)]
async fn health_readiness_and_figures_are_told(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    assert_eq!(text(&stage, "healthz").await, (200, "alive\n".to_owned()));
    assert_eq!(text(&stage, "readyz").await, (200, "ready\n".to_owned()));
    stage.get("/pages").await.unwrap();
    let (status, figures) = text(&stage, "metrics").await;
    assert_eq!(status, 200);
    for line in [
        "# TYPE strelm_requests_total counter",
        "strelm_requests_total{route=\"/api/sites/{site}/pages\",method=\"GET\",status=\"200\"}",
        "strelm_request_duration_seconds_bucket{",
        "strelm_models ",
        "strelm_readings_under_way 0",
    ] {
        assert!(figures.contains(line), "{line} is missing in\n{figures}");
    }
    let answer = http().unwrap().get(stage.address("api/sites")).send().await.unwrap();
    assert!(answer.headers().contains_key("x-request-id"));
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn large_and_senseless_requests_are_refused_in_words(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::set(options).await.unwrap();
    let large = serde_json::json!({"kind": "web", "address": "x".repeat(3_000_000)});
    let post = |body: String| {
        let request = http().unwrap().post(stage.address("api/sites/look"));
        request.header("content-type", "application/json").body(body).send()
    };
    let answer = post(large.to_string()).await.unwrap();
    assert_eq!(answer.status(), 413);
    assert!(answer.text().await.unwrap().contains("larger than Strelm takes"));
    let answer = post("{\"kind\":\"rocket\"}".to_owned()).await.unwrap();
    assert_eq!(answer.status(), 400);
    assert!(answer.text().await.unwrap().contains("cannot be understood"));
    for foreign in ["http://evil.example", "null", "http://127.0.0.1:1"] {
        let request = http().unwrap().put(stage.address("api/sites/1/settings")).header("origin", foreign);
        assert_eq!(request.send().await.unwrap().status(), 403, "{foreign}");
    }
    let request = http().unwrap().post(stage.address("api/sites/1/undo")).header("sec-fetch-site", "cross-site");
    assert_eq!(request.send().await.unwrap().status(), 403);
    // Lines by the ten thousand are counted, and not compared with each other.
    let lines: Vec<String> = (0..20_000).map(|number| number.to_string()).collect();
    let mut limits = stage.get("/limits").await.unwrap()["limits"].clone();
    for (never, status) in [(lines, 422), (vec!["same".to_owned(); 30_000], 204)] {
        limits["never_words"] = serde_json::json!(never);
        let begin = std::time::Instant::now();
        assert_eq!(stage.call("PUT", "/limits", Some(limits.clone())).await.unwrap().0, status);
        assert!(begin.elapsed() < Duration::from_secs(3), "{:?}", begin.elapsed());
    }
    // A column that is named again is the same column.
    let columns = ["title,words"; 1500].join(",");
    let (_, once) = exported(&stage, "title,words").await;
    assert_eq!(exported(&stage, &columns).await, (200, once));
    stage.strike().await;
}

/// Status and text of an export of pages as CSV.
async fn exported(stage: &Stage, columns: &str) -> (u16, String) {
    let path = format!("api/sites/{}/pages/export?format=csv&columns={columns}", stage.site.0);
    let answer = http().unwrap().get(stage.address(&path)).send().await.unwrap();
    (answer.status().as_u16(), answer.text().await.unwrap())
}

#[sqlx::test(migrations = false)]
async fn the_first_view_is_small_and_comes_packed(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::set(options).await.unwrap();
    let plain = reqwest::Client::builder().no_brotli().no_gzip().build().unwrap();
    let get = async |path: &str, takes: &str| {
        let request = plain.get(stage.address(path)).header("accept-encoding", takes);
        let answer = request.send().await.unwrap().error_for_status().unwrap();
        let coding = answer.headers().get("content-encoding").map(|coding| coding.to_str().unwrap().to_owned());
        (coding, answer.bytes().await.unwrap())
    };
    let (coding, window) = get("", "identity").await;
    assert_eq!(coding, None);
    let window = String::from_utf8(window.to_vec()).unwrap();
    // What the window names is what a browser fetches before Today is there, but for fonts.
    let names = window.split('"').filter(|part| part.ends_with(".js") || part.ends_with(".css"));
    let names: std::collections::BTreeSet<_> = names.map(|name| name.trim_start_matches('/')).collect();
    assert!(names.len() >= 2, "{window}");
    let mut sent = 0;
    for name in names {
        let (coding, packed) = get(name, "gzip, br;q=0.9").await;
        assert_eq!(coding.as_deref(), Some("br"), "{name}");
        sent += packed.len();
        assert_ne!(get(name, "br;q=0, identity").await.0.as_deref(), Some("br"), "{name}");
    }
    assert!(sent < 120_000, "{sent} bytes before Today is there");
    stage.strike().await;
}

/// A server as a process of its own, with its log.
struct Process {
    child: Child,
    log: std::thread::JoinHandle<Vec<String>>,
    port: u16,
}

fn serve(stage: &Stage, variables: &[(&str, &str)]) -> Process {
    let port = std::net::TcpListener::bind("127.0.0.1:0").unwrap().local_addr().unwrap().port();
    let mut command = stage.strelm().unwrap();
    command.env("STRELM_LOG", "json,info").envs(variables.iter().copied());
    let mut child = command.args(["serve", "--port", &port.to_string()]).stderr(Stdio::piped()).spawn().unwrap();
    let log = BufReader::new(child.stderr.take().unwrap());
    let log = std::thread::spawn(move || log.lines().map_while(Result::ok).collect());
    let process = Process { child, log, port };
    for _ in 0..200 {
        if std::net::TcpStream::connect(("127.0.0.1", port)).is_ok() {
            return process;
        }
        std::thread::sleep(Duration::from_millis(50));
    }
    panic!("the server does not start");
}

fn terminate(mut process: Process) -> (bool, Duration, Vec<String>) {
    let begin = Instant::now();
    Command::new("kill").args(["-TERM", &process.child.id().to_string()]).status().unwrap();
    let status = process.child.wait().unwrap();
    (status.success(), begin.elapsed(), process.log.join().unwrap())
}

#[sqlx::test(migrations = false)]
async fn a_server_ends_in_good_order_and_logs_requests_without_secrets(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let process = serve(&stage, &[]);
    let address = |path: &str| format!("http://127.0.0.1:{}/api/sites{path}", process.port);
    // A stream that would go on for ever.
    let mut events = http().unwrap().get(address(&format!("/{}/events", stage.site.0))).send().await.unwrap();
    events.chunk().await.unwrap();
    let body = serde_json::json!({"kind": "web", "address": stage.live.entry(), "micropub": stage.live.micropub(), "token": TOKEN});
    let answer = http().unwrap().post(address("/look")).json(&body).send().await.unwrap();
    let id = answer.headers()["x-request-id"].to_str().unwrap().to_owned();
    let (success, took, log) = terminate(process);
    assert!(success, "{log:#?}");
    assert!(took < Duration::from_secs(8), "{took:?}");
    let lines: Vec<serde_json::Value> = log.iter().map(|line| serde_json::from_str(line).unwrap()).collect();
    assert!(lines.iter().any(|line| line["span"]["request_id"] == id.as_str()), "{id} in {log:#?}");
    let password = std::env::var("DATABASE_URL").unwrap().split([':', '@']).nth(2).unwrap().to_owned();
    for secret in [TOKEN, password.as_str()] {
        assert!(log.iter().all(|line| !line.contains(secret)), "{secret} in the log");
    }
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn one_address_cannot_ask_without_end(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::set(options).await.unwrap();
    let process = serve(&stage, &[("STRELM_REQUESTS_A_SECOND", "2")]);
    let client = http().unwrap();
    let mut statuses = Vec::new();
    for _ in 0..12 {
        let answer = client.get(format!("http://127.0.0.1:{}/api/sites", process.port)).send().await.unwrap();
        statuses.push(answer.status().as_u16());
    }
    assert!(statuses.contains(&429) && statuses[0] == 200, "{statuses:?}");
    terminate(process);
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn settings_are_explained_and_mistakes_named(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::set(options).await.unwrap();
    let file = stage.folder("etc").unwrap().join("strelm.toml");
    std::fs::write(&file, "port = 4999\njobs = 2\n").unwrap();
    let run = |file: &std::path::Path| {
        let output = stage.strelm().unwrap().arg("config").arg("--config").arg(file).output().unwrap();
        let all = [output.stdout, output.stderr].concat();
        (output.status.success(), String::from_utf8(all).unwrap())
    };
    let (success, text) = run(&file);
    assert!(success, "{text}");
    assert!(
        text.contains("port = 4999    [from ") && text.contains("secrets = ") && text.contains("[from STRELM_SECRETS]")
    );
    assert!(!text.contains("postgres://strelm"), "{text}");
    std::fs::write(&file, "prot = 1\n").unwrap();
    let (success, text) = run(&file);
    assert!(!success && text.contains("“prot”, which is no setting"), "{text}");
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn a_backup_is_restored_as_it_was(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options.clone()).await.unwrap();
    stage.take("/guides/red-torch/", "/guides/dark-adaptation/").await.unwrap();
    let file = stage.folder("backups").unwrap().join("strelm.dump");
    let run = |command: &mut Command| {
        let output = command.output().unwrap();
        let all = [output.stdout, output.stderr].concat();
        (output.status.success(), String::from_utf8(all).unwrap())
    };
    let (success, text) = run(stage.strelm().unwrap().arg("backup").arg(&file));
    assert!(success, "{text}");
    let before = everything(&stage).await;

    // A database with sites in it is not overwritten by mistake.
    let (success, text) = run(stage.strelm().unwrap().arg("restore").arg(&file));
    assert!(!success && text.contains("has sites in it"), "{text}");
    stage.decide(serde_json::json!({"kind": "drop", "changes": [1]})).await.unwrap();
    assert_ne!(everything(&stage).await, before);
    let (success, text) = run(stage.strelm().unwrap().args(["restore", "--replace"]).arg(&file));
    assert!(success, "{text}");
    assert_eq!(everything(&stage).await, before);

    // And into an empty one.
    let mut connection = sqlx::PgConnection::connect_with(&options).await.unwrap();
    let name = format!("copy_{}", uuid::Uuid::new_v4().simple());
    let create = sqlx::AssertSqlSafe(format!("create database \"{name}\""));
    sqlx::query(create).execute(&mut connection).await.unwrap();
    let copy = options.clone().database(&name);
    let address = sqlx::ConnectOptions::to_url_lossy(&copy).to_string();
    let (success, text) = run(stage.strelm().unwrap().env("STRELM_DATABASE", &address).arg("restore").arg(&file));
    assert!(success, "{text}");
    let mut restored = sqlx::PgConnection::connect_with(&copy).await.unwrap();
    let pages: i64 = sqlx::query_scalar("select count(*) from page").fetch_one(&mut restored).await.unwrap();
    assert_eq!(pages, 73);
    restored.close().await.unwrap();
    let drop = sqlx::AssertSqlSafe(format!("drop database \"{name}\" with (force)"));
    sqlx::query(drop).execute(&mut connection).await.unwrap();
    stage.strike().await;
}

/// Rows of the tables that hold what an editor cares for, as text.
async fn everything(stage: &Stage) -> Vec<String> {
    let rows = sqlx::query_scalar(
        "select row::text from (select * from site) row union all select row::text from (select * from page) row
         union all select row::text from (select * from link) row
         union all select row::text from (select * from taken_link) row
         union all select row::text from (select * from decision) row order by 1",
    );
    rows.fetch_all(&stage.pool).await.unwrap()
}

#[sqlx::test(migrations = false)]
async fn several_processes_may_bring_a_new_database_up_to_date_at_once(_: PgPoolOptions, options: PgConnectOptions) {
    let pools: Vec<_> =
        (0..4).map(|_| PgPoolOptions::new().max_connections(2).connect_lazy_with(options.clone())).collect();
    let all = pools.iter().map(|pool| {
        let pool = pool.clone();
        tokio::spawn(async move { strelm_server::command::prepare(&pool).await.map_err(|error| format!("{error:#}")) })
    });
    for one in all.collect::<Vec<_>>() {
        one.await.unwrap().unwrap();
    }
}

/// More pages than are loaded with their texts.
const MANY: usize = 2300;

#[sqlx::test(migrations = false)]
async fn what_was_found_on_a_large_site_is_there_after_a_restart(_: PgPoolOptions, options: PgConnectOptions) {
    let mut stage = Stage::set(options).await.unwrap();
    let folder = stage.folder("many").unwrap();
    // Names of two words each, so that every page is named on those after it.
    let name = |number: usize| format!("{}star {}glass", letters(number % 40), letters(number / 40 + 3));
    for number in 0..MANY {
        let others: String = (1..4).map(|step| format!(" and a {}", name((number + step * 7) % MANY))).collect();
        let html = format!(
            "<html lang=en><title>{0}</title><h1>{0}</h1><p>We saw it{others} on that night.</p><a href=index.html>Back</a>",
            name(number)
        );
        let file = if number == 0 { "index.html".to_owned() } else { format!("{number}.html") };
        std::fs::write(folder.join(file), html).unwrap();
    }
    let source =
        serde_json::json!({"name": "Many", "source": {"kind": "folder", "path": folder, "address": "many.example"}});
    let added = http().unwrap().post(stage.address("api/sites")).json(&source).send().await.unwrap();
    let added: serde_json::Value = added.json().await.unwrap();
    let site = i32::try_from(added["site"].as_i64().unwrap()).unwrap();
    stage.wait_until_read(site).await.unwrap();
    let mut kept = 0;
    for _ in 0..800 {
        let (_, told) = stage.call_site(site, "GET", "", None).await.unwrap();
        kept = looked(&stage, site).await.len() as i64;
        if told["openings_waiting"] == 0 && kept == MANY as i64 {
            break;
        }
        tokio::time::sleep(Duration::from_millis(50)).await;
    }
    assert_eq!(kept, MANY as i64);
    let before = counted(&stage, site).await;
    let rows_before = looked(&stage, site).await;
    stage.stop_server().await;
    // One page is another by then.
    let sql = "update looked_page set version = sha256('x') where site_id = $1 and page_number = 5";
    sqlx::query(sql).bind(site).execute(&stage.pool).await.unwrap();
    // For a while nothing can be told of openings.
    let mut held = stage.pool.begin().await.unwrap();
    sqlx::query("lock table looked_page in access exclusive mode").execute(&mut *held).await.unwrap();
    stage.start_server().await.unwrap();
    // Who asks and goes away does not take the site's way into memory along.
    let impatient = http().unwrap().get(stage.address(&format!("api/sites/{site}"))).timeout(Duration::from_millis(20));
    drop(impatient.send().await);
    wait_until_ready(&stage, site).await;
    // Pages, Today, the tray and what is known of a page are there before the texts are.
    let (_, told) = stage.call_site(site, "GET", "", None).await.unwrap();
    assert!(told["texts_to_come"].is_u64(), "{told}");
    let (_, pages) = stage.call_site(site, "GET", "/pages?limit=1", None).await.unwrap();
    assert_eq!(pages["total"], MANY, "{pages}");
    let (status, today) = stage.call_site(site, "GET", "/today", None).await.unwrap();
    assert_eq!((status, &today["pages"]), (200, &MANY.into()), "{today}");
    assert_eq!(stage.call_site(site, "GET", "/tray", None).await.unwrap().0, 200);
    // Whoever wants openings is told that they come, and a decision that waits is not lost.
    let (_, desk) = stage.call_site(site, "GET", "/pages/7/desk", None).await.unwrap();
    assert_eq!(desk["nothing_in"], "Openings come when the texts of all pages are in memory.", "{desk}");
    let best = serde_json::json!({"pages": [7], "direction": "in", "each": 1, "least_fit": 0.0});
    let (status, told) = stage.call_site(site, "POST", "/openings/best", Some(best)).await.unwrap();
    assert_eq!(status, 503, "{told}");
    held.rollback().await.unwrap();
    let mut told = told;
    for _ in 0..800 {
        told = stage.call_site(site, "GET", "", None).await.unwrap().1;
        if told["texts_to_come"].is_null() && told["openings_waiting"] == 0 {
            break;
        }
        tokio::time::sleep(Duration::from_millis(50)).await;
    }
    assert_eq!((&told["openings_known"], &told["openings_waiting"]), (&MANY.into(), &0.into()), "{told}");
    assert_eq!(counted(&stage, site).await, before);
    // What was found before is there again; only that one page is looked at anew.
    let rows_after = looked(&stage, site).await;
    let is_other = |(before, after): &(&(i32, String), &(i32, String))| before != after;
    let others: Vec<_> = rows_before.iter().zip(&rows_after).filter(is_other).map(|(before, _)| before.0).collect();
    assert_eq!(others, [5]);
    stage.strike().await;
}

/// Asks as the interface does until a site is in memory; it must come nearer all the time.
async fn wait_until_ready(stage: &Stage, site: i32) {
    let mut before = 0;
    loop {
        let (status, told) = stage.call_site(site, "GET", "/readiness", None).await.unwrap();
        assert_eq!(status, 200, "{told}");
        if told["state"] == "ready" {
            return;
        }
        let (done, total) = (told["done"].as_u64().unwrap(), told["total"].as_u64().unwrap());
        assert!(done >= before && done <= total && (total == 0 || total == MANY as u64), "{told}");
        before = done;
    }
}

#[sqlx::test(migrations = false)]
async fn a_site_that_is_not_there_is_never_ready(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::set(options).await.unwrap();
    for _ in 0..2 {
        let (status, told) = stage.call_site(4711, "GET", "/readiness", None).await.unwrap();
        assert_eq!(status, 404, "{told}");
        assert!(told["message"].as_str().is_some_and(|message| message.contains("no such site")), "{told}");
    }
    let (status, told) = stage.call("GET", "/readiness", None).await.unwrap();
    assert_eq!((status, &told["state"]), (200, &"ready".into()), "{told}");
    stage.strike().await;
}

/// What is kept of pages that were looked at, with the place of each row in the table, which another one takes when it is
/// written anew.
async fn looked(stage: &Stage, site: i32) -> Vec<(i32, String)> {
    let rows = "select page_number, ctid::text from looked_page where site_id = $1 order by page_number";
    sqlx::query_as(rows).bind(site).fetch_all(&stage.pool).await.unwrap()
}

/// How many openings lead to pages and stand on them, once all are counted.
async fn counted(stage: &Stage, site: i32) -> Vec<(serde_json::Value, serde_json::Value)> {
    for _ in 0..400 {
        let (_, pages) = stage.call_site(site, "GET", "/pages?sort=address", None).await.unwrap();
        let rows = pages["rows"].as_array().unwrap();
        if rows.iter().all(|row| !row["best_in"].is_null()) {
            return rows.iter().map(|row| (row["openings_in"].clone(), row["openings_out"].clone())).collect();
        }
        tokio::time::sleep(Duration::from_millis(50)).await;
    }
    panic!("openings are not counted");
}

/// A number as a word.
fn letters(number: usize) -> String {
    let letter = |digit: usize| char::from(b"bdfgklmnprst"[digit % 12]);
    [letter(number / 12), 'a', letter(number), 'o'].iter().collect()
}
