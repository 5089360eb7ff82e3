//! Orders that arrive at once, against a real PostgreSQL: one key has one effect and one answer, and no two links come on
//! the same words.

#![allow(clippy::unwrap_used, clippy::panic)]

mod common;

use std::future::Future;

use sqlx::PgPool;
use strelm_core::tray::Decision;
use strelm_store::decision::{self, Answered, Made, Maker, Wish};
use strelm_store::{SiteId, StoreError, passed, tray};
use uuid::Uuid;

use common::*;

const AT_ONCE: usize = 8;

/// The answers to the same question, asked by several at once.
async fn at_once<T: Send + 'static, F>(ask: impl Fn() -> F) -> Vec<T>
where
    F: Future<Output = T> + Send + 'static,
{
    let tasks: Vec<_> = (0..AT_ONCE).map(|_| tokio::spawn(ask())).collect();
    let mut answers = Vec::new();
    for task in tasks {
        answers.push(task.await.unwrap());
    }
    answers
}

/// A maker with a new key each time, or with one for all.
fn hand(key: Option<Uuid>) -> Maker {
    Maker { hand: Uuid::from_u128(1), key: key.unwrap_or_else(Uuid::new_v4) }
}

async fn take_with(pool: PgPool, site: SiteId, maker: Maker, target: u32) -> Result<Made, StoreError> {
    decision::make(&pool, site, maker, &Wish::Take(&[new_link(1, target)], &[], &[])).await
}

async fn turned(
    pool: &PgPool,
    site: SiteId,
    key: Option<Uuid>,
    again: bool,
) -> Vec<Result<Option<Decision>, StoreError>> {
    at_once(|| {
        let (pool, maker) = (pool.clone(), hand(key));
        async move {
            match again {
                true => decision::redo(&pool, site, maker).await,
                false => decision::undo(&pool, site, maker).await,
            }
        }
    })
    .await
}

async fn in_tray(pool: &PgPool, site: SiteId) -> usize {
    tray::planned(pool, site).await.unwrap().len()
}

#[sqlx::test]
async fn one_key_has_one_effect_and_one_answer(pool: PgPool) {
    let site = small_site(&pool).await;
    for round in 0..50 {
        let key = Uuid::new_v4();
        let made = at_once(|| take_with(pool.clone(), site, hand(Some(key)), 2)).await;
        let made: Vec<_> = made.into_iter().map(|made| done(made.unwrap())).collect();
        assert!(made.iter().all(|decision| *decision == made[0]), "round {round}: {made:?}");
        assert_eq!(in_tray(&pool, site).await, 1);
        pass(&pool, site, 2, 3).await;
        // One undo, however often it is sent at once: the take before it holds.
        let undone = turned(&pool, site, Some(Uuid::new_v4()), false).await;
        assert!(undone.iter().all(|turned| turned.as_ref().unwrap().as_ref().unwrap().kind.as_str() == "pass"));
        assert_eq!((in_tray(&pool, site).await, passed::to(&pool, site, None).await.unwrap().len()), (1, 0));
        turned(&pool, site, Some(Uuid::new_v4()), false).await;
        assert_eq!(in_tray(&pool, site).await, 0);
        // The same forwards again.
        let redone = turned(&pool, site, Some(Uuid::new_v4()), true).await;
        assert!(redone.iter().all(|turned| turned.as_ref().unwrap().as_ref().unwrap().kind.as_str() == "take"));
        assert_eq!((in_tray(&pool, site).await, passed::to(&pool, site, None).await.unwrap().len()), (1, 0));
        turned(&pool, site, Some(Uuid::new_v4()), false).await;
    }
}

#[sqlx::test]
async fn an_undo_that_was_answered_long_ago_undoes_nothing_when_it_comes_again(pool: PgPool) {
    let site = small_site(&pool).await;
    take(&pool, site, &new_link(1, 2)).await.unwrap();
    let (undo, nothing) = (hand(None), hand(None));
    let undone = decision::undo(&pool, site, undo).await.unwrap();
    assert_eq!(decision::undo(&pool, site, nothing).await.unwrap(), None);
    decision::redo(&pool, site, hand(None)).await.unwrap().unwrap();
    take(&pool, site, &new_link(2, 3)).await.unwrap();
    assert_eq!(decision::undo(&pool, site, undo).await.unwrap(), undone, "as it was answered");
    assert_eq!(decision::undo(&pool, site, nothing).await.unwrap(), None);
    assert_eq!(in_tray(&pool, site).await, 2);
}

#[sqlx::test]
async fn of_many_who_want_the_same_words_one_gets_them_and_nothing_locks_up(pool: PgPool) {
    let site = small_site(&pool).await;
    for _ in 0..50 {
        let made = at_once(|| {
            let pool = pool.clone();
            async move {
                // In either order: whoever locks rows as they come would wait for each other.
                let mut links = [new_link(1, 2), new_link(2, 3)];
                if heads() {
                    links.reverse();
                }
                decision::make(&pool, site, hand(None), &Wish::Take(&links, &[], &[])).await
            }
        })
        .await;
        let taken = made.iter().filter(|made| matches!(made, Ok(Made::Done(_)))).count();
        let late = made.iter().filter(|made| made.as_ref().is_err_and(StoreError::is_conflict)).count();
        assert_eq!((taken, late), (1, AT_ONCE - 1), "{made:?}");
        assert_eq!(in_tray(&pool, site).await, 2);
        let undone = turned(&pool, site, None, false).await;
        assert_eq!(undone.iter().filter(|turned| matches!(turned, Ok(Some(_)))).count(), 1, "{undone:?}");
    }
}

/// Heads or tails.
fn heads() -> bool {
    Uuid::new_v4().as_u128().is_multiple_of(2)
}

#[sqlx::test]
async fn a_refusal_is_the_answer_to_its_key_for_good(pool: PgPool) {
    let site = small_site(&pool).await;
    let change = take(&pool, site, &new_link(1, 2)).await.unwrap();
    let maker = hand(None);
    assert!(take_with(pool.clone(), site, maker, 2).await.unwrap_err().is_conflict());
    let refused = Answered::Refused("It is there already.".to_owned());
    assert_eq!(decision::refuse(&pool, site, maker.key, "It is there already.").await.unwrap(), refused);
    done(decide(&pool, site, Wish::Drop(&[change])).await);
    assert_eq!(
        take_with(pool.clone(), site, maker, 2).await.unwrap(),
        Made::Refused("It is there already.".to_owned())
    );
    assert_eq!(decision::answered(&pool, site, maker.key).await.unwrap(), Some(refused));
    // And what was done cannot be refused afterwards.
    let maker = hand(None);
    let made = done(take_with(pool.clone(), site, maker, 2).await.unwrap());
    assert_eq!(decision::refuse(&pool, site, maker.key, "Too late.").await.unwrap(), Answered::Done(made));
}
