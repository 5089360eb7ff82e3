//! Pages as they pass: in pieces, packed, broken, large, and everything that is no page.

use std::io::Read;
use std::time::Duration;

use sqlx::PgPool;

use crate::stage::*;

fn linked() -> String {
    page().replace(PLAIN, LINKED)
}

fn chunked(body: &[u8], size: usize) -> Vec<Piece> {
    let head = "HTTP/1.1 200 OK\r\ncontent-type: text/html\r\ntransfer-encoding: chunked\r\nconnection: close\r\n\r\n";
    let mut pieces = vec![Piece::Bytes(head.as_bytes().to_vec())];
    for piece in body.chunks(size) {
        let chunk = [format!("{:x}\r\n", piece.len()).as_bytes(), piece, b"\r\n"].concat();
        pieces.push(Piece::Bytes(chunk));
    }
    pieces.push(Piece::Bytes(b"0\r\n\r\n".to_vec()));
    pieces
}

#[sqlx::test(migrations = "../store/migrations")]
async fn a_page_gets_its_links_however_it_comes(pool: PgPool) {
    let stage = Stage::set(&pool).await;
    assert_eq!(stage.text("/light").await, linked());
    for size in [1, 7, 50, 5000] {
        stage.answers(move |_| chunked(page().as_bytes(), size));
        assert_eq!(stage.text("/light").await, linked(), "in pieces of {size}");
    }
    stage.answers(|_| answer("content-type: text/html\r\ncontent-encoding: gzip\r\n", &gzip(page().as_bytes())));
    let packed = stage.get("/light").header("accept-encoding", "zstd, gzip;q=0.5, br").send().await.unwrap();
    assert_eq!(packed.headers()["content-encoding"], "gzip");
    assert!(!packed.headers().contains_key("content-length"));
    let mut text = String::new();
    let packed = packed.bytes().await.unwrap();
    flate2::read::MultiGzDecoder::new(&*packed).read_to_string(&mut text).unwrap();
    assert_eq!(text, linked());
    // The site is asked only for what is understood here.
    assert!(stage.asked()[0].contains("accept-encoding: gzip;q=0.5, br\r\n"), "{}", stage.asked()[0]);
    let mut packed = Vec::new();
    let mut encoder = brotli::CompressorReader::new(std::io::Cursor::new(page()), 4096, 5, 20);
    encoder.read_to_end(&mut packed).unwrap();
    stage.answers(move |_| answer("content-type: text/html\r\ncontent-encoding: br\r\n", &packed));
    let packed = stage.get("/light").send().await.unwrap().bytes().await.unwrap();
    let mut text = String::new();
    brotli::Decompressor::new(&*packed, 4096).read_to_string(&mut text).unwrap();
    assert_eq!(text, linked());
    // In the encoding of the page.
    stage.answers(|_| {
        answer("content-type: text/html; charset=iso-8859-1\r\n", &[page().as_bytes(), b"<p>\xe9t\xe9"].concat())
    });
    let latin = stage.get("/light").send().await.unwrap().bytes().await.unwrap();
    assert_eq!(&*latin, [linked().as_bytes(), b"<p>\xe9t\xe9"].concat());
}

#[sqlx::test(migrations = "../store/migrations")]
async fn what_is_no_page_to_be_altered_passes_as_it_came(pool: PgPool) {
    let stage = Stage::set(&pool).await;
    let other = |headers: &str| {
        let headers = headers.to_owned();
        move |_: &str| answer(&headers, page().as_bytes())
    };
    for headers in [
        "content-type: text/plain\r\n",
        "content-type: application/json\r\netag: \"1\"\r\nlast-modified: Tue, 01 Dec 2026 00:00:00 GMT\r\n",
        "",
        "content-type: text/html\r\ncontent-disposition: attachment; filename=x.html\r\n",
        "content-type: text/html\r\ncache-control: max-age=5, no-transform\r\n",
        "content-type: text/html\r\ncontent-encoding: zstd\r\n",
        // It says that it is packed and is not.
        "content-type: text/html\r\ncontent-encoding: gzip\r\n",
    ] {
        stage.answers(other(headers));
        let got = stage.get("/light").send().await.unwrap();
        for line in headers.split("\r\n").filter(|line| !line.is_empty()) {
            let (name, value) = line.split_once(": ").unwrap();
            assert_eq!(got.headers()[name], value);
        }
        assert_eq!(got.text().await.unwrap(), page(), "{headers}");
    }
    // Other statuses, parts of a page, and heads alone.
    for (status, extra) in [("404 Not Found", ""), ("206 Partial Content", "content-range: bytes 0-1/2\r\n")] {
        stage.answers(move |_| {
            let head = format!(
                "HTTP/1.1 {status}\r\ncontent-type: text/html\r\ncontent-length: {}\r\n{extra}\r\n",
                page().len()
            );
            vec![Piece::Bytes((head + &page()).into_bytes())]
        });
        let got = stage.get("/light").header("range", "bytes=0-1").send().await.unwrap();
        assert_eq!(got.status().as_str(), &status[..3]);
        assert_eq!(got.headers()["content-length"], page().len().to_string());
        assert_eq!(got.text().await.unwrap(), page());
        assert!(stage.asked()[0].contains("range: bytes=0-1"));
    }
    stage.answers(|_| {
        vec![Piece::Bytes(b"HTTP/1.1 200 OK\r\ncontent-type: image/png\r\ncontent-length: 77\r\n\r\n".to_vec())]
    });
    let head = stage.http.head(stage.address("/moon.png")).send().await.unwrap();
    assert_eq!(head.headers()["content-length"], "77");
    stage.answers(|_| {
        vec![Piece::Bytes(
            b"HTTP/1.1 200 OK\r\ncontent-type: text/html\r\ncontent-length: 77\r\netag: \"1\"\r\n\r\n".to_vec(),
        )]
    });
    let head = stage.http.head(stage.address("/light")).send().await.unwrap();
    assert!(
        !head.headers().contains_key("content-length")
            && head.headers()["etag"].to_str().unwrap().starts_with("W/\"1~s.")
    );
    // Whoever reads the site for Strelm sees it as it is.
    stage.answers(|_| html("", &page()));
    let got = stage.get("/light").header(strelm_core::passing::AS_IT_IS, "1").send().await.unwrap();
    assert_eq!(got.text().await.unwrap(), page());
}

#[sqlx::test(migrations = "../store/migrations")]
async fn what_is_asked_reaches_the_site_and_its_answers_lead_back_here(pool: PgPool) {
    let stage = Stage::set(&pool).await;
    stage.answers(|request| {
        let host = request.to_ascii_lowercase().split("x-test-upstream: ").nth(1).map(|rest| rest.split('\r').next().unwrap().to_owned());
        let to = host.map(|host| format!("location: {host}/there?a=1\r\n")).unwrap_or_default();
        let head = format!("HTTP/1.1 302 Found\r\n{to}keep-alive: timeout=5\r\nset-cookie: a=1\r\nset-cookie: b=2\r\ncontent-length: 0\r\n\r\n");
        vec![Piece::Bytes(head.into_bytes())]
    });
    let sent = stage
        .http
        .post(stage.address("/form?x=%2f..%2F&y=a+b"))
        .header("host", "sky.example")
        .body("moon=1")
        .send()
        .await
        .unwrap();
    assert_eq!(sent.status(), 302);
    assert_eq!(sent.headers().get_all("set-cookie").iter().count(), 2);
    assert!(!sent.headers().contains_key("keep-alive"));
    let asked = stage.asked()[0].to_ascii_lowercase();
    assert!(asked.starts_with("post /form?x=%2f..%2f&y=a+b http/1.1\r\n"), "{asked}");
    for line in
        ["host: sky.example", "via: 1.1 strelm-edge", "x-forwarded-for: 127.0.0.1", "x-forwarded-host: sky.example"]
    {
        assert!(asked.contains(&format!("{line}\r\n")), "{asked}");
    }
    assert!(asked.ends_with("moon=1") || asked.contains("\r\nmoon=1\r\n"), "{asked}");
    // Where the site leads to itself, its reader stays with the edge; elsewhere he goes.
    let upstream = strelm_store::edge::running(&stage.pool, stage.site).await.unwrap()[0].upstream.clone();
    let led = async |to: &str| {
        let got = stage.get("/old").header("x-test-upstream", to).send().await.unwrap();
        got.headers()["location"].to_str().unwrap().to_owned()
    };
    assert_eq!(led(upstream.trim_end_matches('/')).await, "/there?a=1");
    assert_eq!(led("https://elsewhere.example").await, "https://elsewhere.example/there?a=1");
    let round = stage.get("/").header("via", ["1.1 strelm-edge"; 4].join(", ")).send().await.unwrap();
    assert_eq!(round.status(), 508);
}

#[sqlx::test(migrations = "../store/migrations")]
async fn broken_pages_and_large_ones_pass(pool: PgPool) {
    let stage = Stage::set(&pool).await;
    // Cut off anywhere, with text in the same places and nothing else added.
    for end in (0..page().len()).step_by(13) {
        let torn = page()[..end].to_owned();
        let expected = torn.replace(PLAIN, LINKED);
        stage.answers(move |_| html("", &torn));
        // Whether a sentence is whole shows only behind it.
        let got = stage.text("/light").await;
        assert!(got == expected || got == page()[..end], "{got}");
    }
    let hidden = format!(
        "<!-- <p>{PLAIN}</p> --><script>'<p>{PLAIN}</p>'</script><a href=/x><p>{PLAIN}</p></a><p title='<p>{PLAIN}</p>'>"
    );
    let body = hidden.clone() + &page() + "<p>rest";
    stage.answers(move |_| html("", &body));
    // The torn pages are being learnt yet, and some hold no sentence.
    stage.until("/light", &(hidden + &linked() + "<p>rest")).await;
    let filler = "<p>Words of a page that is very large. <b>Bold</b> and more.</p>\n".repeat(330_000);
    assert!(filler.len() > 20 << 20);
    let large = page().replace("<main>", &format!("<main>{filler}"));
    let body = large.clone();
    stage.answers(move |_| chunked(body.as_bytes(), 65_000));
    let got = stage.text("/light").await;
    assert_eq!(got.len(), large.len() + LINKED.len() - PLAIN.len());
    assert!(got == large.replace(PLAIN, LINKED));
}

#[sqlx::test(migrations = "../store/migrations")]
async fn the_first_bytes_of_a_slow_page_do_not_wait_for_the_last(pool: PgPool) {
    let stage = Stage::set(&pool).await;
    let packed = gzip(page().as_bytes());
    let slow = |begin: &[u8], rest: &[u8], headers: &str| {
        let head = format!(
            "HTTP/1.1 200 OK\r\ncontent-type: text/html\r\n{headers}content-length: {}\r\n\r\n",
            begin.len() + rest.len()
        );
        vec![
            Piece::Bytes([head.as_bytes(), begin].concat()),
            Piece::Wait(Duration::from_millis(1500)),
            Piece::Bytes(rest.to_vec()),
        ]
    };
    let at = page().find("keeps").unwrap();
    let text = page();
    stage.answers(move |_| slow(&text.as_bytes()[..at], &text.as_bytes()[at..], ""));
    let begun = std::time::Instant::now();
    let mut got = stage.get("/light").send().await.unwrap();
    let first = got.chunk().await.unwrap().unwrap();
    assert!(begun.elapsed() < Duration::from_millis(1000));
    // All but what may yet become the sentence.
    assert_eq!(String::from_utf8_lossy(&first), page()[..page().find(PLAIN).unwrap()]);
    let mut all = first.to_vec();
    while let Some(piece) = got.chunk().await.unwrap() {
        all.extend_from_slice(&piece);
    }
    assert_eq!(String::from_utf8(all).unwrap(), linked());
    let at = packed.len() - 20;
    stage.answers(move |_| slow(&packed[..at], &packed[at..], "content-encoding: gzip\r\n"));
    let begun = std::time::Instant::now();
    let mut got = stage.get("/light").send().await.unwrap();
    assert!(!got.chunk().await.unwrap().unwrap().is_empty() && begun.elapsed() < Duration::from_millis(1000));
}
