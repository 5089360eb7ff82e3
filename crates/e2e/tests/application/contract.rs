//! The API keeps to its description: whatever is asked within it or beside it, nothing fails, and each answer has a status
//! and a kind that are written down.

use serde_json::{Map, Value, json};
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use strelm_e2e::stage::{Stage, http};

const CALLS: usize = 1500;

/// Values of text that are meant, and others. None of them is a name that somebody would have to look up.
const TEXTS: [&str; 20] = [
    "",
    " ",
    "a",
    "title",
    "title,words",
    "words:1..9",
    "moon",
    "red torch",
    "/guides/red-torch/",
    "http://127.0.0.1:1/",
    "http://[::1]:1/x?y=z#w",
    "ftp://x/",
    "//",
    "..",
    "\u{0}",
    "🪐\u{202e}\u{300}",
    "'; drop table page; --",
    "<script>x()</script>",
    "=1+1",
    "00000000-0000-4000-8000-000000000001",
];

const NUMBERS: [i64; 12] = [0, 1, 2, 3, 7, 20, 60, 500, -1, i32::MAX as i64, u32::MAX as i64 + 1, i64::MAX];

struct Client {
    random: fastrand::Rng,
    description: Value,
    site: i64,
}

struct Call {
    method: String,
    address: String,
    body: Option<(String, Vec<u8>)>,
    operation: Value,
}

impl Client {
    fn one_of<T: Clone>(&mut self, all: &[T]) -> T {
        all[self.random.usize(..all.len())].clone()
    }

    /// Once in so many.
    fn seldom(&mut self, one_in: usize) -> bool {
        self.random.usize(..one_in) == 0
    }

    fn text(&mut self) -> String {
        match self.seldom(40) {
            true => "x".repeat(self.random.usize(1..30_000)),
            false => self.one_of(&TEXTS).to_owned(),
        }
    }

    fn number(&mut self) -> i64 {
        if self.seldom(3) { self.one_of(&NUMBERS) } else { self.random.i64(1..75) }
    }

    /// A value of a schema, or once in a while of none.
    fn value(&mut self, schema: &Value, depth: usize) -> Value {
        if self.seldom(30) {
            return self.one_of(&[json!(null), json!([]), json!({}), json!("x"), json!(-1), json!(1.5), json!(true)]);
        }
        if let Some(name) = schema["$ref"].as_str() {
            let name = name.rsplit('/').next().unwrap();
            let schema = self.description["components"]["schemas"][name].clone();
            return self.value(&schema, depth + 1);
        }
        for several in ["oneOf", "anyOf"] {
            if let Some(schemas) = schema[several].as_array() {
                let chosen = self.one_of(schemas);
                return self.value(&chosen, depth + 1);
            }
        }
        if let Some(schemas) = schema["allOf"].as_array().cloned() {
            let mut whole = Map::new();
            for part in &schemas {
                if let Value::Object(fields) = self.value(part, depth + 1) {
                    whole.extend(fields);
                }
            }
            return whole.into();
        }
        if let Some(values) = schema["enum"].as_array() {
            return self.one_of(values);
        }
        let kinds = match &schema["type"] {
            Value::Array(kinds) => kinds.clone(),
            kind => vec![kind.clone()],
        };
        match self.one_of(&kinds).as_str() {
            Some("object") => {
                let required = schema["required"].as_array().cloned().unwrap_or_default();
                let fields = schema["properties"].as_object().cloned().unwrap_or_default();
                let mut object = Map::new();
                for (name, schema) in fields {
                    if !self.seldom(20) && (required.contains(&json!(name)) || self.random.bool()) {
                        object.insert(name, self.value(&schema, depth + 1));
                    }
                }
                object.into()
            }
            Some("array") => {
                let count = if depth > 6 { 0 } else { self.random.usize(..4) };
                (0..count).map(|_| self.value(&schema["items"], depth + 1)).collect()
            }
            Some("integer") => self.number().into(),
            Some("number") => self.one_of(&[0.0, 0.5, 50.0, -1.0, 1e300]).into(),
            Some("boolean") => self.random.bool().into(),
            Some("null") => Value::Null,
            _ if schema["format"] == "uuid" => uuid::Uuid::from_u128(self.random.u128(..)).to_string().into(),
            _ => self.text().into(),
        }
    }

    fn plain(value: &Value) -> String {
        value.as_str().map_or_else(|| value.to_string(), str::to_owned)
    }

    fn call(&mut self) -> Call {
        let paths = self.description["paths"].as_object().unwrap().clone();
        let all: Vec<(&String, &String, &Value)> = paths
            .iter()
            .filter(|(path, _)| !path.ends_with("/events"))
            .flat_map(|(path, methods)| {
                methods.as_object().unwrap().iter().map(move |(method, operation)| (path, method, operation))
            })
            .collect();
        let (path, method, operation) = self.one_of(&all);
        let mut address = path.clone();
        let mut query = url::form_urlencoded::Serializer::new(String::new());
        for parameter in operation["parameters"].as_array().into_iter().flatten() {
            let name = parameter["name"].as_str().unwrap();
            let value = match name {
                "site" if !self.seldom(15) => json!(self.site),
                _ => self.value(&parameter["schema"], 0),
            };
            match parameter["in"].as_str() {
                Some("path") => {
                    address = address.replace(&format!("{{{name}}}"), &Self::plain(&value).replace('/', "%2F"))
                }
                _ if parameter["required"] == true && !self.seldom(15) || self.random.bool() => {
                    query.append_pair(name, &Self::plain(&value));
                }
                _ => {}
            }
        }
        let content = operation["requestBody"]["content"].as_object().and_then(|content| content.iter().next());
        let body = content.map(|(kind, content)| {
            let bytes = match kind.as_str() {
                "application/json" => {
                    let whole = self.value(&content["schema"], 0).to_string();
                    let end = if self.seldom(25) { whole.floor_char_boundary(whole.len() / 2) } else { whole.len() };
                    whole[..end].to_owned().into_bytes()
                }
                _ => self.text().into_bytes(),
            };
            (kind.clone(), bytes)
        });
        let address = format!("{}?{}", address.trim_start_matches('/'), query.finish());
        Call { method: method.to_uppercase(), address, body, operation: operation.clone() }
    }
}

/// What of an answer is not in the description.
async fn undescribed(stage: &Stage, call: &Call) -> Option<String> {
    let mut request = http().unwrap().request(call.method.parse().unwrap(), stage.address(&call.address));
    if let Some((kind, body)) = &call.body {
        request = request.header("content-type", kind).body(body.clone());
    }
    let answer = match request.send().await {
        Ok(answer) => answer,
        Err(error) => return Some(format!("no answer: {error}")),
    };
    let status = answer.status().as_u16();
    let header = answer.headers().get("content-type").and_then(|kind| kind.to_str().ok()).unwrap_or_default();
    let kind = header.split(';').next().unwrap_or_default().trim().to_owned();
    let text = String::from_utf8_lossy(&answer.bytes().await.unwrap_or_default()).into_owned();
    let described = &call.operation["responses"][status.to_string()];
    if status >= 500 || described.is_null() {
        return Some(format!("status {status} {}", text.chars().take(300).collect::<String>()));
    }
    let kinds: Vec<&String> = described["content"].as_object().into_iter().flat_map(|kinds| kinds.keys()).collect();
    let is_like =
        |known: &&String| **known == kind || known.strip_suffix('*').is_some_and(|start| kind.starts_with(start));
    let is_described = if kinds.is_empty() { text.is_empty() } else { kinds.iter().any(is_like) };
    (!is_described).then(|| format!("status {status} of kind “{kind}”, described are {kinds:?}"))
}

#[sqlx::test(migrations = false)]
async fn every_answer_is_of_a_status_and_a_kind_that_the_description_names(
    _: PgPoolOptions,
    options: PgConnectOptions,
) {
    let stage = Stage::read_in(options).await.unwrap();
    let described = stage.strelm().unwrap().arg("openapi").output().unwrap().stdout;
    let seed =
        std::env::var("STRELM_SEED").ok().and_then(|seed| seed.parse().ok()).unwrap_or_else(|| fastrand::u64(..));
    println!("STRELM_SEED={seed}");
    let description: Value = serde_json::from_slice(&described).unwrap();
    let mut client = Client { random: fastrand::Rng::with_seed(seed), description, site: stage.site.0.into() };
    let mut wrong = Vec::new();
    for _ in 0..CALLS {
        let call = client.call();
        if let Some(why) = undescribed(&stage, &call).await {
            let body: Option<String> =
                call.body.as_ref().map(|(_, body)| String::from_utf8_lossy(body).chars().take(300).collect());
            wrong.push(format!("{} {}\n  {}\n  {why}", call.method, call.address, body.unwrap_or_default()));
        }
    }
    assert!(wrong.is_empty(), "{} of {CALLS} answers are not described:\n{}", wrong.len(), wrong.join("\n"));
    let alive = http().unwrap().get(stage.address("healthz")).send().await.unwrap();
    assert_eq!(alive.status(), 200);
    stage.strike().await;
}
