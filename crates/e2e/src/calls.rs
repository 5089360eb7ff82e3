//! Calls to the API of a stage, as the interface makes them.

use std::time::Duration;

use anyhow::{Context, bail};
use serde_json::{Value, json};

use crate::stage::{Stage, http};

/// The number of the hand that decides in tests.
pub const HAND: &str = "00000000-0000-4000-8000-000000000001";

impl Stage {
    /// Status and body of a call below the stage's site.
    ///
    /// # Errors
    /// When the server does not answer.
    pub async fn call(&self, method: &str, path: &str, body: Option<Value>) -> anyhow::Result<(u16, Value)> {
        self.call_site(self.site.0, method, path, body).await
    }

    /// Status and body of a call below another site.
    ///
    /// # Errors
    /// When the server does not answer.
    pub async fn call_site(
        &self,
        site: i32,
        method: &str,
        path: &str,
        body: Option<Value>,
    ) -> anyhow::Result<(u16, Value)> {
        let address = self.address(&format!("api/sites/{site}{path}"));
        let mut request = http()?.request(method.parse()?, address);
        if let Some(body) = body {
            request = request.json(&body);
        }
        let answer = request.send().await?;
        let status = answer.status().as_u16();
        Ok((status, answer.json().await.unwrap_or(Value::Null)))
    }

    /// The body of a call that must succeed.
    ///
    /// # Errors
    /// With what the server said otherwise.
    pub async fn get(&self, path: &str) -> anyhow::Result<Value> {
        let (status, body) = self.call("GET", path, None).await?;
        if status != 200 {
            bail!("{path}: {status} {body}");
        }
        Ok(body)
    }

    /// All that a server shows of the stage's site: its state, its pages, its tray, what is set and the Desk of each page.
    /// `server` makes addresses of one of the servers.
    ///
    /// # Errors
    /// When the server does not answer.
    pub async fn everything(&self, server: impl Fn(&str) -> String) -> anyhow::Result<Value> {
        let client = http()?;
        let get = async |path: &str| -> anyhow::Result<Value> {
            let address = server(&format!("api/sites/{}{path}", self.site.0));
            Ok(client.get(address).send().await?.error_for_status()?.json().await?)
        };
        // What is worked out in the background is there before it is looked at.
        while get("/reach").await?["is_settled"] != true {
            tokio::time::sleep(Duration::from_millis(25)).await;
        }
        let mut status = get("").await?;
        // The moment of the reading is told by the database to all alike; what counts here is the model.
        status["reading"] = Value::Null;
        let pages = get("/pages?sort=address").await?;
        let mut desks = Vec::new();
        for row in pages["rows"].as_array().context("no pages are told")? {
            desks.push(get(&format!("/pages/{}/desk", row["number"])).await?);
        }
        let (tray, limits) = (get("/tray").await?, get("/limits").await?);
        Ok(json!({"status": status, "pages": pages, "tray": tray, "limits": limits, "desks": desks}))
    }

    /// Waits until a site is read.
    ///
    /// # Errors
    /// When the reading fails, or takes longer than any made-up site does.
    pub async fn wait_until_read(&self, site: i32) -> anyhow::Result<()> {
        for _ in 0..400 {
            let (_, status) = self.call_site(site, "GET", "", None).await?;
            match status["reading"]["phase"].as_str() {
                Some("done") => return Ok(()),
                Some("failed") => bail!("the reading failed: {status}"),
                _ => tokio::time::sleep(Duration::from_millis(25)).await,
            }
        }
        bail!("the reading did not end")
    }

    /// The row of a page by its path.
    ///
    /// # Errors
    /// When there is none.
    pub async fn page(&self, path: &str) -> anyhow::Result<Value> {
        self.page_of(self.site.0, path).await
    }

    /// The row of a page of another site by its path.
    ///
    /// # Errors
    /// When there is none.
    pub async fn page_of(&self, site: i32, path: &str) -> anyhow::Result<Value> {
        let (_, rows) = self.call_site(site, "GET", "/pages", None).await?;
        let rows = rows["rows"].as_array().cloned().unwrap_or_default();
        rows.into_iter().find(|row| row["path"] == path).with_context(|| format!("there is no page {path}"))
    }

    /// The Desk of a page by its path.
    ///
    /// # Errors
    /// When there is no such page.
    pub async fn desk(&self, path: &str) -> anyhow::Result<Value> {
        let number = self.page(path).await?["number"].clone();
        self.get(&format!("/pages/{number}/desk")).await
    }

    /// The opening on one page that leads to another.
    ///
    /// # Errors
    /// When there is none.
    pub async fn opening(&self, target: &str, source: &str) -> anyhow::Result<Value> {
        let desk = self.desk(target).await?;
        let openings = desk["openings_in"].as_array().cloned().unwrap_or_default();
        let found = openings.into_iter().find(|opening| opening["page"]["path"] == source);
        found.with_context(|| format!("no opening on {source} leads to {target}"))
    }

    /// Status and body of a decision with a new number of its own.
    ///
    /// # Errors
    /// When the server does not answer.
    pub async fn decide(&self, what: Value) -> anyhow::Result<(u16, Value)> {
        let body = json!({"hand": HAND, "key": uuid::Uuid::new_v4(), "what": what});
        self.call("POST", "/decisions", Some(body)).await
    }

    /// Takes the opening on one page that leads to another.
    ///
    /// # Errors
    /// When there is none, or it is refused.
    pub async fn take(&self, target: &str, source: &str) -> anyhow::Result<Value> {
        let opening = self.opening(target, source).await?;
        let (status, body) = self.decide(take_of(&opening)).await?;
        if status != 200 {
            bail!("{target} from {source}: {status} {body}");
        }
        Ok(body)
    }

    /// Undoes the latest decision of the hand, or does it again: `undo` or `redo`.
    ///
    /// # Errors
    /// When the server does not answer.
    pub async fn turn(&self, how: &str) -> anyhow::Result<(u16, Value)> {
        let body = json!({"hand": HAND, "key": uuid::Uuid::new_v4()});
        self.call("POST", &format!("/{how}"), Some(body)).await
    }

    /// The latest release once it is in one of some phases.
    ///
    /// # Errors
    /// When it does not get there within the time that anybody would wait.
    pub async fn release_in(&self, phases: &[&str]) -> anyhow::Result<Value> {
        let mut seen = Value::Null;
        for _ in 0..1200 {
            seen = self.get("/releases").await?[0].clone();
            if seen["phase"].as_str().is_some_and(|phase| phases.contains(&phase)) {
                return Ok(seen);
            }
            tokio::time::sleep(Duration::from_millis(25)).await;
        }
        bail!("the release does not come to {phases:?}: {seen}");
    }

    /// Releases the tray and waits until it is out.
    ///
    /// # Errors
    /// When it cannot be ordered or does not go out.
    pub async fn release(&self) -> anyhow::Result<Value> {
        let (status, body) = self.call("POST", "/releases", None).await?;
        if status != 200 {
            bail!("{status} {body}");
        }
        self.release_in(&["out"]).await
    }

    /// Orders a reading and waits until it is done.
    ///
    /// # Errors
    /// When it fails.
    pub async fn read_again(&self) -> anyhow::Result<()> {
        self.read_site().await?;
        self.wait_for_reading().await
    }
}

/// The decision that takes an opening.
pub fn take_of(opening: &Value) -> Value {
    json!({"kind": "take", "links": [picked(opening, &["source", "target", "words_start", "words_end", "version"])]})
}

/// The decision that passes an opening: in a place, for a pair or for all pages.
pub fn pass_of(opening: &Value, scope: &str) -> Value {
    let mut what = picked(opening, &["source", "target", "words_start", "words_end"]);
    what["kind"] = json!("pass");
    what["scope"] = json!(scope);
    what["anchor"] = opening["sentence"]["anchor"].clone();
    what
}

fn picked(opening: &Value, keys: &[&str]) -> Value {
    keys.iter().map(|key| ((*key).to_owned(), opening[*key].clone())).collect::<serde_json::Map<_, _>>().into()
}
