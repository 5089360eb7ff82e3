//! The same order twice at once, and two orders for the same words: each is carried out once and answered alike.

use serde_json::{Value, json};
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use strelm_e2e::calls::{HAND, pass_of, take_of};
use strelm_e2e::stage::Stage;
use uuid::Uuid;

const ROUNDS: usize = 80;

/// Twice the same path, with a body each, at once.
async fn both(stage: &Stage, path: &str, bodies: [Value; 2]) -> [(u16, Value); 2] {
    let [one, other] = bodies;
    let (one, other) = tokio::join!(stage.call("POST", path, Some(one)), stage.call("POST", path, Some(other)));
    [one.unwrap(), other.unwrap()]
}

fn with_key(key: Uuid, what: Option<&Value>) -> Value {
    let mut body = json!({"hand": HAND, "key": key});
    if let Some(what) = what {
        body["what"] = what.clone();
    }
    body
}

#[sqlx::test(migrations = false)]
async fn eighty_rounds_of_races_leave_each_decision_made_once(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let opening = stage.opening("/guides/red-torch/", "/guides/dark-adaptation/").await.unwrap();
    let beside = stage.opening("/guides/averted-vision/", "/guides/dark-adaptation/").await.unwrap();
    let in_tray = async || stage.get("").await.unwrap()["tray"]["links"].as_u64().unwrap();
    for round in 0..ROUNDS {
        // The same key: both are told that it was taken.
        let key = Uuid::new_v4();
        let take = with_key(key, Some(&take_of(&opening)));
        let answers = both(&stage, "/decisions", [take.clone(), take]).await;
        assert!(answers.iter().all(|(status, _)| *status == 200), "round {round}: {answers:?}");
        assert_eq!(answers[0].1["words"], answers[1].1["words"]);
        // Another decision, and one undo of it that is sent twice: the one before it holds.
        let pass = with_key(Uuid::new_v4(), Some(&pass_of(&beside, "place")));
        let answers = both(&stage, "/decisions", [pass.clone(), pass]).await;
        assert!(answers.iter().all(|(status, _)| *status == 200), "round {round}: {answers:?}");
        let undo = with_key(Uuid::new_v4(), None);
        let answers = both(&stage, "/undo", [undo.clone(), undo]).await;
        assert!(answers.iter().all(|(_, body)| body["decided"]["kind"] == "pass"), "round {round}: {answers:?}");
        assert_eq!(in_tray().await, 1, "round {round}");
        // Two keys for the same words: one is refused in words.
        let drop = with_key(Uuid::new_v4(), None);
        stage.call("POST", "/undo", Some(drop)).await.unwrap();
        let [one, other] = [Uuid::new_v4(), Uuid::new_v4()].map(|key| with_key(key, Some(&take_of(&opening))));
        let answers = both(&stage, "/decisions", [one.clone(), other.clone()]).await;
        let mut statuses = answers.each_ref().map(|(status, _)| *status);
        assert_eq!(in_tray().await, 1, "round {round}");
        // Whoever asks again is answered as before, although the words are free now.
        stage.call("POST", "/undo", Some(with_key(Uuid::new_v4(), None))).await.unwrap();
        let again = both(&stage, "/decisions", [one, other]).await;
        assert_eq!(again.each_ref().map(|(status, _)| *status), statuses, "round {round}: {answers:?} {again:?}");
        statuses.sort_unstable();
        assert_eq!(statuses, [200, 409], "round {round}: {answers:?}");
        assert_eq!(in_tray().await, 0, "round {round}");
    }
    stage.strike().await;
}
