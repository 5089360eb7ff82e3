pub mod drop;
pub mod show;
