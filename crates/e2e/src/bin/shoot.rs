//! Takes a PNG of an address, 1280 × 800, and prints what the console and axe have to say.
//!
//! Steps are done in their order: `SELECTOR=TEXT` waits, `key:K` presses, `click:SELECTOR` clicks, `type:TEXT` types
//! where the focus is, `time:K` presses and prints in how many milliseconds its effect is drawn, `size:WIDTHxHEIGHT`
//! makes the window another.

use std::time::Duration;

use anyhow::Context;
use fantoccini::Locator;
use serde_json::json;
use strelm_e2e::browser::Browser;

/// The first task after a frame begins when the frame is drawn.
const UNTIL_DRAWN: &str = "
    const [key, done] = arguments;
    const begin = performance.now();
    window.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true }));
    requestAnimationFrame(() => {
        const drawn = new MessageChannel();
        drawn.port1.onmessage = () => done(performance.now() - begin);
        drawn.port2.postMessage(null);
    });
";

#[tokio::main]
async fn main() -> anyhow::Result<()> {
    let arguments: Vec<String> = std::env::args().skip(1).collect();
    let [address, file, steps @ ..] = arguments.as_slice() else {
        anyhow::bail!(
            "shoot ADDRESS FILE [key:K | time:K | size:WxH | click:SELECTOR | file:PATH | type:TEXT | SELECTOR=TEXT]..."
        );
    };
    let browser = Browser::start().await?;
    browser.client.goto(address).await?;
    for step in steps {
        if let Some(key) = step.strip_prefix("key:") {
            browser.press(key).await?;
        } else if let Some(key) = step.strip_prefix("time:") {
            let took = browser.client.execute_async(UNTIL_DRAWN, vec![key.into()]).await?;
            println!("{key}: {:.0} ms", took.as_f64().unwrap_or_default());
        } else if let Some(text) = step.strip_prefix("type:") {
            browser.client.active_element().await?.send_keys(text).await?;
        } else if let Some(size) = step.strip_prefix("size:") {
            let (width, height) = size.split_once('x').context("a size is WIDTHxHEIGHT")?;
            let (width, height): (u32, u32) = (width.parse()?, height.parse()?);
            let size = json!({"width": width, "height": height, "deviceScaleFactor": 1, "mobile": false});
            browser.devtools("Emulation.setDeviceMetricsOverride", size).await?;
        } else if let Some(path) = step.strip_prefix("file:") {
            browser.client.find(Locator::Css("input[type=file]")).await?.send_keys(path).await?;
        } else if let Some(selector) = step.strip_prefix("click:") {
            browser.client.find(Locator::Css(selector)).await?.click().await?;
        } else {
            let (selector, text) = step.rsplit_once('=').context("a step is SELECTOR=TEXT")?;
            browser.wait_for(selector, text).await?;
        }
        tokio::time::sleep(Duration::from_millis(600)).await;
    }
    tokio::time::sleep(Duration::from_millis(600)).await;
    std::fs::write(file, browser.picture().await?)?;
    for complaint in browser.complaints().await? {
        println!("console: {complaint}");
    }
    for finding in browser.axe().await? {
        println!("axe: {finding}");
    }
    browser.end().await
}
