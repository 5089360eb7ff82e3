//! Headless Chromium through ChromeDriver.

use std::os::unix::process::CommandExt;
use std::process::{Child, Command, Stdio};
use std::time::Duration;

use anyhow::{Context, bail};
use fantoccini::wd::{Capabilities, WebDriverCompatibleCommand};
use fantoccini::{Client, ClientBuilder, Locator};
use hyper_util::client::legacy::connect::HttpConnector;
use serde_json::{Value, json};

/// How long a page may take to show what is waited for.
const PATIENCE: Duration = Duration::from_secs(20);

const FLAGS: [&str; 14] = [
    "--headless=new",
    "--no-sandbox",
    "--disable-gpu",
    "--disable-dev-shm-usage",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--disable-default-apps",
    "--force-device-scale-factor=1",
    "--hide-scrollbars",
    "--window-size=1280,800",
    "--lang=en-GB",
];

#[derive(Clone, Copy, PartialEq, Eq)]
enum Themes {
    Shown,
    Both,
}

/// A browser window of exactly 1280 × 800, ended when dropped.
pub struct Browser {
    pub client: Client,
    driver: Child,
    _profile: tempfile::TempDir,
}

impl Browser {
    /// # Errors
    /// When Chromium or ChromeDriver cannot be started.
    pub async fn start() -> anyhow::Result<Self> {
        let port = free_port()?;
        let driver = Command::new("chromedriver")
            .arg(format!("--port={port}"))
            .stdout(Stdio::null())
            .stderr(Stdio::null())
            .process_group(0)
            .spawn()
            .context("chromedriver is not installed")?;
        let profile = tempfile::tempdir()?;
        let mut arguments: Vec<String> = FLAGS.iter().map(ToString::to_string).collect();
        arguments.push(format!("--user-data-dir={}", profile.path().display()));
        let mut capabilities = Capabilities::new();
        capabilities.insert("goog:chromeOptions".into(), json!({"args": arguments, "binary": "/usr/bin/chromium"}));
        capabilities.insert("goog:loggingPrefs".into(), json!({"browser": "ALL"}));
        let client = connect(port, capabilities).await?;
        let browser = Self { client, driver, _profile: profile };
        let size = json!({"width": 1280, "height": 800, "deviceScaleFactor": 1, "mobile": false});
        browser.devtools("Emulation.setDeviceMetricsOverride", size).await?;
        Ok(browser)
    }

    /// A command of the DevTools protocol.
    ///
    /// # Errors
    /// What the browser says against it.
    pub async fn devtools(&self, command: &str, parameters: Value) -> anyhow::Result<Value> {
        let body = json!({"cmd": command, "params": parameters});
        Ok(self.client.issue_cmd(Post { path: "goog/cdp/execute", body }).await?)
    }

    /// Errors and warnings that the page wrote to the console since the last call.
    ///
    /// # Errors
    /// When the browser does not answer.
    pub async fn complaints(&self) -> anyhow::Result<Vec<String>> {
        let log = self.client.issue_cmd(Post { path: "se/log", body: json!({"type": "browser"}) }).await?;
        let lines = log.as_array().cloned().unwrap_or_default().into_iter();
        let bad = lines.filter(|line| matches!(line["level"].as_str(), Some("SEVERE" | "WARNING")));
        Ok(bad.map(|line| line["message"].as_str().unwrap_or_default().to_owned()).collect())
    }

    /// Waits until an element matches the CSS selector and its text, white space folded, holds `text`.
    ///
    /// # Errors
    /// When it does not within the time that a person would wait; the message tells what was there instead.
    pub async fn wait_for(&self, css: &str, text: &str) -> anyhow::Result<fantoccini::elements::Element> {
        let begin = std::time::Instant::now();
        let mut seen = Vec::new();
        while begin.elapsed() < PATIENCE {
            seen.clear();
            for element in self.client.find_all(Locator::Css(css)).await? {
                // An element may go away while it is looked at.
                let Ok(shown) = element.text().await else { continue };
                let shown = shown.split_whitespace().collect::<Vec<_>>().join(" ");
                if shown.contains(text) {
                    return Ok(element);
                }
                seen.push(shown);
            }
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
        bail!("no {css} shows “{text}”; instead: {seen:?}")
    }

    /// Whether an element that matches the CSS selector shows `text` at this moment.
    ///
    /// # Errors
    /// When the browser does not answer.
    pub async fn find_now(&self, css: &str, text: &str) -> anyhow::Result<bool> {
        for element in self.client.find_all(Locator::Css(css)).await? {
            if element.text().await.is_ok_and(|shown| shown.contains(text)) {
                return Ok(true);
            }
        }
        Ok(false)
    }

    /// Waits until nothing that matches the CSS selector shows `text`.
    ///
    /// # Errors
    /// When it is still there after the time that a person would wait.
    pub async fn wait_until_gone(&self, css: &str, text: &str) -> anyhow::Result<()> {
        let begin = std::time::Instant::now();
        while begin.elapsed() < PATIENCE {
            let mut found = false;
            for element in self.client.find_all(Locator::Css(css)).await? {
                found |= element.text().await.is_ok_and(|shown| shown.contains(text));
            }
            if !found {
                return Ok(());
            }
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
        bail!("{css} still shows “{text}”")
    }

    /// Presses a key as if on the page as a whole.
    ///
    /// # Errors
    /// When the browser does not answer.
    pub async fn press(&self, key: &str) -> anyhow::Result<()> {
        let body = self.client.find(Locator::Css("body")).await?;
        Ok(body.send_keys(key).await?)
    }

    /// All findings of axe, of whatever impact, each with the elements at fault; of colours in both themes.
    ///
    /// # Errors
    /// When the check itself fails.
    pub async fn axe(&self) -> anyhow::Result<Vec<String>> {
        self.run_axe(Themes::Both).await
    }

    /// Those in the theme that is shown.
    ///
    /// # Errors
    /// When the check itself fails.
    pub async fn axe_of_shown_theme(&self) -> anyhow::Result<Vec<String>> {
        self.run_axe(Themes::Shown).await
    }

    async fn run_axe(&self, themes: Themes) -> anyhow::Result<Vec<String>> {
        let source = concat!(env!("CARGO_MANIFEST_DIR"), "/../../web/node_modules/axe-core/axe.min.js");
        let source = std::fs::read_to_string(source).context("the interface's packages are not installed")?;
        // Through the protocol rather than as a script of the page, which its own policy would refuse.
        let evaluate =
            |expression: String| json!({"expression": expression, "awaitPromise": true, "returnByValue": true});
        self.devtools("Runtime.evaluate", evaluate(source)).await?;
        // Colours on their way from one theme to the other are those of neither.
        let run = "(async () => {
            const still = new CSSStyleSheet();
            still.replaceSync('* { transition: none !important; animation: none !important }');
            document.adoptedStyleSheets.push(still);
            const tell = (found, theme) => found.violations.map(v => theme + ': ' + v.id + ': ' + v.help + ' — '
                + v.nodes.map(n => n.target.join(' ')).join(' | '));
            const root = document.documentElement;
            const [shown, dark] = [root.dataset.theme, 'strelm-dark'];
            const findings = tell(await axe.run(document, {rules: {'target-size': {enabled: true}}}), shown);
            if (BOTH) {
                root.dataset.theme = shown === dark ? 'strelm' : dark;
                findings.push(...tell(await axe.run(document, {runOnly: ['color-contrast']}), root.dataset.theme));
                root.dataset.theme = shown;
            }
            document.adoptedStyleSheets.pop();
            return JSON.stringify(findings);
        })()";
        let run = run.replace("BOTH", if themes == Themes::Both { "true" } else { "false" });
        let result = self.devtools("Runtime.evaluate", evaluate(run)).await?;
        let text = result["result"]["value"].as_str().with_context(|| format!("axe did not run: {result}"))?;
        Ok(serde_json::from_str(text)?)
    }

    /// A PNG of the window.
    ///
    /// # Errors
    /// When the browser does not answer.
    pub async fn picture(&self) -> anyhow::Result<Vec<u8>> {
        Ok(self.client.screenshot().await?)
    }

    /// Ends the browser in good order.
    ///
    /// # Errors
    /// When it does not answer any more.
    pub async fn end(self) -> anyhow::Result<()> {
        Ok(self.client.clone().close().await?)
    }
}

impl Drop for Browser {
    fn drop(&mut self) {
        // The whole group: a killed driver leaves its browser running.
        let _ = Command::new("kill").args(["-KILL", "--", &format!("-{}", self.driver.id())]).status();
        let _ = self.driver.wait();
    }
}

async fn connect(port: u16, capabilities: Capabilities) -> anyhow::Result<Client> {
    let begin = std::time::Instant::now();
    loop {
        let mut builder = ClientBuilder::new(HttpConnector::new());
        builder.capabilities(capabilities.clone());
        match builder.connect(&format!("http://127.0.0.1:{port}")).await {
            Ok(client) => return Ok(client),
            Err(error) if begin.elapsed() > PATIENCE => return Err(error.into()),
            Err(_) => tokio::time::sleep(Duration::from_millis(200)).await,
        }
    }
}

pub(crate) fn free_port() -> std::io::Result<u16> {
    Ok(std::net::TcpListener::bind(("127.0.0.1", 0))?.local_addr()?.port())
}

/// A command of ChromeDriver's own.
#[derive(Debug)]
struct Post {
    path: &'static str,
    body: Value,
}

impl WebDriverCompatibleCommand for Post {
    fn endpoint(&self, base: &url::Url, session: Option<&str>) -> Result<url::Url, url::ParseError> {
        base.join(&format!("session/{}/{}", session.unwrap_or_default(), self.path))
    }

    fn method_and_body(&self, _: &url::Url) -> (http::Method, Option<String>) {
        (http::Method::POST, Some(self.body.to_string()))
    }
}
