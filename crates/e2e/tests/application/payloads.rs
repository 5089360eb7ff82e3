//! Hostile pages: scripts in titles, addresses, alternative texts, bodies and file names run nowhere.

use serde_json::json;
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use strelm_e2e::browser::Browser;
use strelm_e2e::stage::{Stage, http};

/// Each would set `window.hit`, or leave the window, if it ran.
const PAYLOADS: [&str; 64] = [
    "<script>window.hit=1</script>",
    "<ScRiPt>window.hit=1</sCrIpT>",
    "<script/src=data:,window.hit=1></script>",
    "<script\n>window.hit=1</script\n>",
    "<scr<script>ipt>window.hit=1</scr</script>ipt>",
    "<script>window.hit=1//",
    "</title><script>window.hit=1</script>",
    "</textarea><script>window.hit=1</script>",
    "</style><script>window.hit=1</script>",
    "--><script>window.hit=1</script><!--",
    "]]><script>window.hit=1</script>",
    "<img src=x onerror=window.hit=1>",
    "<img src=x onerror=\"window.hit=1\">",
    "<img/src=x/onerror=window.hit=1>",
    "<img src=`x`onerror=window.hit=1>",
    "<img \"\"\"><script>window.hit=1</script>\">",
    "<img src=\"javascript:window.hit=1\">",
    "<img srcset=\"x\" onerror=window.hit=1>",
    "<image href=x onerror=window.hit=1>",
    "<svg onload=window.hit=1>",
    "<svg/onload=window.hit=1>",
    "<svg><script>window.hit=1</script></svg>",
    "<svg><a xlink:href=\"javascript:window.hit=1\"><text>x</text></a></svg>",
    "<svg><animate onbegin=window.hit=1 attributeName=x></svg>",
    "<svg><set attributeName=href to=javascript:window.hit=1></svg>",
    "<svg><foreignObject><iframe onload=window.hit=1></iframe></foreignObject></svg>",
    "<svg><use href=\"data:image/svg+xml,<svg id=x onload=window.hit=1>#x\"></svg>",
    "<svg><style><img src=x onerror=window.hit=1></style></svg>",
    "<math><mtext><table><mglyph><style><img src=x onerror=window.hit=1></style></mglyph></table></mtext></math>",
    "<math href=\"javascript:window.hit=1\">x</math>",
    "<math><annotation-xml encoding=\"text/html\"><script>window.hit=1</script></annotation-xml></math>",
    "<iframe src=\"javascript:window.hit=1\"></iframe>",
    "<iframe srcdoc=\"<script>parent.hit=1</script>\"></iframe>",
    "<object data=\"javascript:window.hit=1\"></object>",
    "<embed src=\"javascript:window.hit=1\">",
    "<applet code=x onload=window.hit=1></applet>",
    "<frameset onload=window.hit=1>",
    "<body onload=window.hit=1>",
    "<body onpageshow=window.hit=1>",
    "<html onmouseover=window.hit=1>",
    "<meta http-equiv=refresh content=\"0;url=javascript:window.hit=1\">",
    "<meta http-equiv=refresh content=\"0;url=http://127.0.0.1:1/\">",
    "<base href=\"http://127.0.0.1:1/\">",
    "<link rel=stylesheet href=\"javascript:window.hit=1\">",
    "<link rel=import href=\"data:text/html,<script>window.hit=1</script>\">",
    "<style>@import 'javascript:window.hit=1';</style>",
    "<style>*{background:url(javascript:window.hit=1)}</style>",
    "<div style=\"background:url(javascript:window.hit=1)\">x</div>",
    "<div style=\"width:expression(window.hit=1)\">x</div>",
    "<a href=\"javascript:window.hit=1\" id=bad>press</a>",
    "<a href=\"JaVaScRiPt:window.hit=1\">press</a>",
    "<a href=\"java\tscript:window.hit=1\">press</a>",
    "<a href=\"&#106;avascript:window.hit=1\">press</a>",
    "<a href=\" &#14; javascript:window.hit=1\">press</a>",
    "<a href=\"data:text/html,<script>opener.hit=1</script>\">press</a>",
    "<a href=\"vbscript:window.hit=1\">press</a>",
    "<form action=\"javascript:window.hit=1\"><button>x</button></form>",
    "<button formaction=\"javascript:window.hit=1\">x</button>",
    "<input autofocus onfocus=window.hit=1>",
    "<select autofocus onfocus=window.hit=1></select>",
    "<details open ontoggle=window.hit=1>x</details>",
    "<video><source onerror=window.hit=1></video>",
    "<marquee onstart=window.hit=1>x</marquee>",
    "<template><script>window.hit=1</script></template><noscript><p title=\"</noscript><img src=x onerror=window.hit=1>\">",
];

async fn never_hit(browser: &Browser, view: &str) {
    let hit = browser.client.execute("return window.hit ?? null", Vec::new()).await.unwrap();
    assert!(hit.is_null(), "a payload ran in {view}");
    let url = browser.client.current_url().await.unwrap();
    assert_eq!(url.host_str(), Some("127.0.0.1"), "{view} was left for {url}");
}

#[sqlx::test(migrations = false)]
async fn nothing_that_a_page_holds_runs_in_the_window(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::set(options).await.unwrap();
    let folder = stage.folder("hostile").unwrap();
    std::fs::write(folder.join("index.html"), "<title>Hostile</title><p>Names follow: Odd page.</p>").unwrap();
    for (number, payload) in (0..).zip(PAYLOADS) {
        let quoted = payload.replace('"', "&quot;");
        // In the title, the heading, the body, an anchor text, an alternative text, an id and an address.
        let body = format!(
            "<!doctype html><html lang=en><title>Odd {number} {payload}</title></head><body><main><h1>Odd {number} {quoted}</h1>\
             {payload}<p>See Odd page {number}. <a href=\"index.html#{quoted}\">{quoted}</a> <img alt=\"{quoted}\" src=\"{quoted}\">\
             <a href=\"x{number}.html?q={quoted}\">gone</a></p><p id=\"{quoted}\">end</p></main></body></html>"
        );
        std::fs::write(folder.join(format!("odd{number}.html")), body).unwrap();
        // And in front matter and Markdown, under a name that is a payload itself, as far as a file can be called that.
        let name: String = payload.chars().filter(|c| *c != '/' && !c.is_control()).take(80).collect();
        let title = serde_json::to_string(payload).unwrap();
        let text = format!(
            "+++\ntitle = {title}\ncategory = {title}\ndescription = {title}\ntags = [{title}]\n+++\n# {payload}\n\n{payload}\n"
        );
        std::fs::write(folder.join(format!("{number}{name}.md")), text).unwrap();
    }
    let source = json!({"kind": "folder", "path": folder, "address": ""});
    let client = http().unwrap();
    let post = |path: &str, body: serde_json::Value| client.post(stage.address(path)).json(&body).send();
    let look: serde_json::Value = post("api/sites/look", source.clone()).await.unwrap().json().await.unwrap();
    assert_eq!(look["problem"], serde_json::Value::Null, "{look}");
    let name = format!("{} {}", PAYLOADS[0], PAYLOADS[11]);
    let added: serde_json::Value =
        post("api/sites", json!({"name": name, "source": source})).await.unwrap().json().await.unwrap();
    let site = i32::try_from(added["site"].as_i64().unwrap()).unwrap();
    for _ in 0..400 {
        let (_, status) = stage.call_site(site, "GET", "", None).await.unwrap();
        if status["reading"]["phase"] == "done" {
            break;
        }
        tokio::time::sleep(std::time::Duration::from_millis(25)).await;
    }
    let browser = Browser::start().await.unwrap();
    for view in ["today", "pages", "pages?text=%3Cscript%3E", "history?show=readings", "setup"] {
        browser.client.goto(&stage.address(&format!("{site}/{view}"))).await.unwrap();
        browser.wait_for("main h1", "").await.unwrap();
        tokio::time::sleep(std::time::Duration::from_millis(200)).await;
        never_hit(&browser, view).await;
    }
    browser.press("/").await.unwrap();
    browser.wait_for("[role=dialog] [role=option]", "Today").await.unwrap();
    browser.client.active_element().await.unwrap().send_keys("odd").await.unwrap();
    browser.wait_for("[role=dialog] [role=option]", "Odd").await.unwrap();
    never_hit(&browser, "find anything").await;
    let (_, pages) = stage.call_site(site, "GET", "/pages?sort=address", None).await.unwrap();
    let rows = pages["rows"].as_array().unwrap();
    assert!(rows.len() > 2 * PAYLOADS.len() - 8, "{} pages", rows.len());
    for row in rows {
        let view = format!("pages/{}", row["number"]);
        browser.client.goto(&stage.address(&format!("{site}/{view}"))).await.unwrap();
        browser.wait_for("section[aria-label='The page'] h1", "").await.unwrap();
        // Links are pressed, since that is what people do. What leaves the window opens beside it.
        let press = "document.querySelectorAll('.reader a').forEach(a => { a.removeAttribute('target'); \
                     if (!/^https?:/.test(a.getAttribute('href') ?? '')) a.click(); })";
        browser.client.execute(press, Vec::new()).await.unwrap();
        never_hit(&browser, &format!("{view}: {}", row["title"])).await;
    }
    let refused = browser.complaints().await.unwrap();
    let worried: Vec<_> = refused.iter().filter(|line| !line.contains("/pictures?")).collect();
    assert!(worried.is_empty(), "the policy had to stop something that should not be there: {worried:#?}");
    browser.end().await.unwrap();
    stage.strike().await;
}
