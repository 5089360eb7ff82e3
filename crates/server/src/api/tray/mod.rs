pub mod export;
pub mod show;
