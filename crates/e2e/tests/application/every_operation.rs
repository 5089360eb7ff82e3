//! Whatever is asked of any operation: it answers, in words, and what it does not understand changes nothing.

use serde_json::Value;
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use strelm_e2e::stage::{Stage, http};

/// What no page, site or place is numbered with.
const NO_NUMBERS: [&str; 7] = ["0", "-1", "2147483647", "99999999999999999999", "1.5", "x", "%00"];

const STRANGE_TEXTS: [&str; 6] = ["", "%00", "%F0%9F%AA%90", "%27;%20drop%20table%20page;%20--", "%FF", "%22%5B%7B"];

const STRANGE_BODIES: [&str; 8] =
    ["", "{", "null", "[]", "{}", "\"\\u0000\"", "{\"site\":1,\"kind\":\"\\u0000\",\"page\":-1}", "[[[[[[[[[[[[[[[[[["];

/// An operation of the interface, as its description has it.
struct Operation {
    method: reqwest::Method,
    path: String,
    /// In the query, with what each is.
    asked: Vec<(String, String)>,
    takes: Option<String>,
}

impl Operation {
    /// All of them but the stream of events, which does not end.
    fn all(description: &Value) -> Vec<Self> {
        let mut all = Vec::new();
        for (path, methods) in description["paths"].as_object().unwrap() {
            for (method, operation) in methods.as_object().unwrap() {
                let parameters = operation["parameters"].as_array().map_or(&[][..], Vec::as_slice);
                let asked = parameters.iter().filter(|parameter| parameter["in"] == "query").map(|parameter| {
                    let kind = parameter["schema"]["type"].as_str().unwrap_or("string").to_owned();
                    (parameter["name"].as_str().unwrap().to_owned(), kind)
                });
                let content = operation["requestBody"]["content"].as_object();
                all.push(Self {
                    method: method.to_uppercase().parse().unwrap(),
                    path: path.clone(),
                    asked: asked.collect(),
                    takes: content.and_then(|content| content.keys().next().cloned()),
                });
            }
        }
        all.retain(|operation| !operation.path.ends_with("/events"));
        all
    }

    fn slots(&self) -> Vec<&str> {
        self.path.split('/').filter(|part| part.starts_with('{')).collect()
    }

    /// Its address with other numbers in the path, and a query.
    fn address(&self, site: &str, other: &dyn Fn(&str) -> Option<&'static str>, query: &str) -> String {
        let path: Vec<_> = self
            .path
            .split('/')
            .map(|part| match part {
                slot if slot.starts_with('{') => {
                    other(slot).unwrap_or(if slot == "{site}" { site } else { "1" }).to_owned()
                }
                fixed => fixed.to_owned(),
            })
            .collect();
        format!("{}?{query}", path.join("/").trim_start_matches('/'))
    }

    /// A query that could be meant, but for one of its parts.
    fn query(&self, strange: &str, value: &str) -> String {
        let meant = |kind: &str| match kind {
            "integer" => "1",
            "boolean" => "true",
            _ => "a",
        };
        let pairs = self.asked.iter().map(|(name, kind)| {
            let value = if name == strange { value } else { meant(kind) };
            format!("{name}={value}")
        });
        pairs.collect::<Vec<_>>().join("&")
    }

    fn changes_something(&self) -> bool {
        self.method != reqwest::Method::GET
    }
}

/// Asks, and says what is wrong with the answer.
async fn ask(stage: &Stage, operation: &Operation, address: &str, body: Option<&str>) -> Option<String> {
    let mut request = http().unwrap().request(operation.method.clone(), stage.address(address));
    if let Some(kind) = &operation.takes {
        request = request.header("content-type", kind).body(body.unwrap_or("{}").to_owned());
    }
    let told = format!("{} {address} {}", operation.method, body.unwrap_or_default());
    let answer = match request.send().await {
        Ok(answer) => answer,
        Err(error) => return Some(format!("{told}: {error}")),
    };
    let status = answer.status();
    let text = answer.text().await.unwrap_or_default();
    if status.is_success() {
        return None;
    }
    let problem: Value = serde_json::from_str(&text).unwrap_or_default();
    let says = problem["message"].as_str().unwrap_or_default();
    let is_in_words = says.ends_with(['.', '?']) && says.contains(' ');
    let lets_slip = ["sqlx", "panicked", "serde", "deserialize", "EOF while", "unwrap", "error returned from database"];
    let is_wrong = status.is_server_error() || !is_in_words || lets_slip.iter().any(|word| text.contains(word));
    is_wrong.then(|| format!("{told}: {status} {text}"))
}

/// All that the site says of itself, without what moves by itself.
async fn everything(stage: &Stage) -> Vec<Value> {
    while stage.get("/reach").await.unwrap()["is_settled"] != true {
        tokio::time::sleep(std::time::Duration::from_millis(25)).await;
    }
    let mut all = Vec::new();
    for path in ["/pages?limit=200", "/tray", "/settings", "/limits", "/releases", "/rules", "/edge"] {
        all.push(stage.get(path).await.unwrap());
    }
    all
}

#[sqlx::test(migrations = false)]
async fn senseless_numbers_questions_and_bodies_are_answered_in_words(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let described = stage.strelm().unwrap().arg("openapi").output().unwrap().stdout;
    let operations = Operation::all(&serde_json::from_slice(&described).unwrap());
    assert!(operations.len() > 30);
    let before = everything(&stage).await;
    let site = stage.site.0.to_string();
    let mut wrong = Vec::new();
    for operation in &operations {
        for slot in operation.slots() {
            for number in NO_NUMBERS {
                let other = |named: &str| (named == slot).then_some(number);
                let address = operation.address(&site, &other, &operation.query("", ""));
                wrong.extend(ask(&stage, operation, &address, None).await);
            }
        }
        // What is asked for with good numbers may be done, and is no question of this test.
        if !operation.changes_something() {
            for (name, kind) in &operation.asked {
                let strange = STRANGE_TEXTS.iter().chain(NO_NUMBERS.iter().filter(|_| kind == "integer"));
                for value in strange {
                    let address = operation.address(&site, &|_| None, &operation.query(name, value));
                    wrong.extend(ask(&stage, operation, &address, None).await);
                }
            }
        }
        if operation.takes.as_deref() == Some("application/json") {
            for body in STRANGE_BODIES {
                let address = operation.address(&site, &|_| None, "");
                wrong.extend(ask(&stage, operation, &address, Some(body)).await);
            }
        }
    }
    assert!(wrong.is_empty(), "{} answers are wrong:\n{}", wrong.len(), wrong.join("\n"));
    assert_eq!(everything(&stage).await, before, "nothing was changed");
    stage.strike().await;
}
