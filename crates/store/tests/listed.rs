//! Pages that an editor listed, against a real PostgreSQL.

#![allow(clippy::unwrap_used)]

mod common;

use sqlx::PgPool;
use strelm_core::site::Address;
use strelm_store::listed::{self, ListedPage};
use strelm_store::site;

use common::*;

fn listed_page(path: &str, names: &[&str]) -> ListedPage {
    ListedPage { address: address(path), names: names.iter().map(|name| (*name).to_owned()).collect() }
}

#[sqlx::test]
async fn a_list_is_added_to_and_a_page_that_is_listed_again_has_its_latest_names(pool: PgPool) {
    let site = small_site(&pool).await;
    assert!(listed::all(&pool, site).await.unwrap().is_empty());
    let names = ["red torch", "torches, red", "“Lampe” {de}", "a\\b 'c' \"d\"", "日本語"];
    let first = [listed_page("torch", &names), listed_page("moon", &[]), listed_page("sun", &["old sun"])];
    listed::put_all(&pool, site, &first).await.unwrap();
    let [torch, moon, _] = first;
    listed::put_all(&pool, site, &[listed_page("sun", &["sun", "star"])]).await.unwrap();
    let expected = [moon, listed_page("sun", &["sun", "star"]), torch];
    assert_eq!(listed::all(&pool, site).await.unwrap(), expected, "in the order of addresses");
    listed::put_all(&pool, site, &[]).await.unwrap();
    assert_eq!(listed::all(&pool, site).await.unwrap().len(), 3);
}

#[sqlx::test]
async fn of_an_address_that_a_list_has_twice_one_row_counts_and_other_sites_have_their_own(pool: PgPool) {
    let site = small_site(&pool).await;
    let twice = [listed_page("moon", &["moon"]), listed_page("moon", &["luna"])];
    listed::put_all(&pool, site, &twice).await.unwrap();
    let found = listed::all(&pool, site).await.unwrap();
    assert!(found.len() == 1 && twice.contains(&found[0]), "{found:?}");
    let entry = Address::parse("https://b.example/").unwrap();
    let (other, _) = site::add(&pool, &entry, &settings("Other", None)).await.unwrap();
    assert!(listed::all(&pool, other).await.unwrap().is_empty());
    let refused = listed::put_all(&pool, other, &[listed_page("x", &["zero\0"])]).await;
    assert!(refused.is_err(), "the database takes no such letter");
    assert!(listed::all(&pool, other).await.unwrap().is_empty(), "nothing is half kept");
}
