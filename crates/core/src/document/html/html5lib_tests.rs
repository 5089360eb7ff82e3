//! The tokenizer against the html5lib tests, which browsers are tested with too.

use std::path::Path;

use serde_json::{Value, json};

use super::references::{attribute_value, each_piece};
use super::tokenizer::{Content, HtmlToken, TextMode, Tokenizer};

/// Gives the tokens in the form of the tests.
fn tokens(source: &str, content: Content, until: &str) -> Vec<Value> {
    let mut tokenizer = Tokenizer::new(source);
    tokenizer.expect(content, until);
    let mut out: Vec<Value> = Vec::new();
    let push_text = |text: &str, out: &mut Vec<Value>| match out.last_mut().and_then(Value::as_array_mut) {
        Some(last) if last[0] == "Character" => last[1] = json!(format!("{}{text}", last[1].as_str().unwrap())),
        _ => out.push(json!(["Character", text])),
    };
    let clean = |span: crate::document::SourceSpan| source[span.range()].replace("\r\n", "\n").replace('\r', "\n");
    while let Some(token) = tokenizer.next() {
        match token {
            HtmlToken::Text(span, mode) => {
                let mut text = String::new();
                each_piece(&source[span.range()], mode, |piece| text.push_str(&piece.text));
                // The tests hold what the tokenizer alone gives; that NUL is dropped is the tree builder's.
                if mode == TextMode::Data && source[span.range()].contains('\0') {
                    text = String::new();
                    for part in source[span.range()].split_inclusive('\0') {
                        each_piece(part.trim_end_matches('\0'), mode, |piece| text.push_str(&piece.text));
                        text.push_str(if part.ends_with('\0') { "\0" } else { "" });
                    }
                }
                if !text.is_empty() {
                    push_text(&text, &mut out);
                }
            }
            HtmlToken::StartTag(tag) => {
                let mut attributes = serde_json::Map::new();
                for raw in tokenizer.attributes() {
                    let name = clean(raw.name).to_ascii_lowercase().replace('\0', "\u{fffd}");
                    let value = attribute_value(&source[raw.value.range()]).into_owned();
                    attributes.entry(name).or_insert(json!(value));
                }
                let name = clean(tag.name).to_ascii_lowercase().replace('\0', "\u{fffd}");
                match tag.self_closing {
                    true => out.push(json!(["StartTag", name, attributes, true])),
                    false => out.push(json!(["StartTag", name, attributes])),
                }
            }
            HtmlToken::EndTag(tag) => {
                let name = clean(tag.name).to_ascii_lowercase().replace('\0', "\u{fffd}");
                out.push(json!(["EndTag", name]));
            }
            HtmlToken::Comment(_, inner) => out.push(json!(["Comment", clean(inner).replace('\0', "\u{fffd}")])),
            HtmlToken::Doctype(_) => out.push(json!(["DOCTYPE"])),
            HtmlToken::Nothing(_) => {}
        }
    }
    out
}

/// Tests of one file that could be run, and what went wrong with them.
fn run(path: &Path) -> (usize, Vec<String>) {
    let suite: Value = serde_json::from_str(&std::fs::read_to_string(path).unwrap()).unwrap();
    let (mut count, mut wrong) = (0, Vec::new());
    for test in suite["tests"].as_array().into_iter().flatten() {
        let plain = |text: &str| match test["doubleEscaped"].as_bool() {
            Some(true) => serde_json::from_str::<String>(&format!("\"{}\"", text.replace('"', "\\\""))).ok(),
            _ => Some(text.to_owned()),
        };
        // Half of a surrogate pair cannot stand in UTF-8.
        let (Some(source), Some(expected)) =
            (plain(test["input"].as_str().unwrap()), plain(&test["output"].to_string()).or(None))
        else {
            continue;
        };
        let expected = if test["doubleEscaped"] == true {
            unescape(&test["output"])
        } else {
            serde_json::from_str(&expected).ok()
        };
        let Some(expected) = expected else { continue };
        let expected: Vec<Value> =
            expected.as_array().unwrap().iter().filter(|t| **t != "ParseError").map(short).collect();
        let states = test["initialStates"].as_array().cloned().unwrap_or_else(|| vec![json!("Data state")]);
        for state in states {
            let (content, until) = match state.as_str().unwrap() {
                "Data state" => (Content::Markup, ""),
                "PLAINTEXT state" => (Content::Plain, ""),
                "RCDATA state" => (Content::Escapable, test["lastStartTag"].as_str().unwrap_or("title")),
                "RAWTEXT state" => (Content::Raw, test["lastStartTag"].as_str().unwrap_or("xmp")),
                "Script data state" => (Content::Script, test["lastStartTag"].as_str().unwrap_or("script")),
                // Begins in the middle of a CDATA section, which is nothing that a page can do.
                _ => continue,
            };
            count += 1;
            let found = tokens(&source, content, until);
            if merged(&found) != merged(&expected) {
                wrong.push(format!(
                    "{:?} ({state}): {source:?}\n  expected {expected:?}\n  found    {found:?}",
                    test["description"]
                ));
            }
        }
    }
    (count, wrong)
}

fn unescape(value: &Value) -> Option<Value> {
    Some(match value {
        Value::String(text) => Value::String(serde_json::from_str(&format!("\"{}\"", text.replace('"', "\\\""))).ok()?),
        Value::Array(list) => Value::Array(list.iter().map(unescape).collect::<Option<_>>()?),
        Value::Object(map) => {
            let pairs = map.iter().map(|(k, v)| Some((unescape(&json!(k))?.as_str()?.to_owned(), unescape(v)?)));
            Value::Object(pairs.collect::<Option<_>>()?)
        }
        other => other.clone(),
    })
}

/// What a doctype says is nothing to us.
fn short(token: &Value) -> Value {
    if token[0] == "DOCTYPE" { json!(["DOCTYPE"]) } else { token.clone() }
}

fn merged(tokens: &[Value]) -> Vec<Value> {
    let mut out: Vec<Value> = Vec::new();
    for token in tokens {
        match (out.last_mut().and_then(Value::as_array_mut), token[0] == "Character") {
            (Some(last), true) if last[0] == "Character" => {
                last[1] = json!(format!("{}{}", last[1].as_str().unwrap(), token[1].as_str().unwrap()));
            }
            _ => out.push(token.clone()),
        }
    }
    out
}

#[test]
fn tokens_are_those_that_the_standard_asks_for() {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/html5lib");
    let mut files: Vec<_> = std::fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path()).collect();
    files.retain(|path| path.extension().is_some_and(|extension| extension == "test"));
    files.sort();
    let (mut count, mut wrong) = (0, Vec::new());
    for file in &files {
        let (tests, failed) = run(file);
        count += tests;
        wrong.extend(failed.into_iter().map(|text| format!("{}: {text}", file.file_name().unwrap().display())));
    }
    assert!(count > 6000, "only {count} tests were run");
    assert!(wrong.is_empty(), "{} of {count} tests:\n{}", wrong.len(), wrong[..wrong.len().min(40)].join("\n"));
}
